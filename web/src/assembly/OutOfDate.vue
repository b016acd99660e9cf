<script setup lang="ts">
// Parts that take from what stands around them, where that has changed: what, what it would do, one click.
import { computed } from 'vue'
import { mass } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { useMaking } from './inplace'

const making = useMaking()
const stale = computed(() => making.status.filter((s) => !s.fresh))
const fresh = computed(() => making.status.filter((s) => s.fresh))
</script>

<template>
  <article v-for="s in stale" :key="making.keyOf(s)" class="stale" :data-testid="`stale-${s.component}`">
    <header>
      <Icon name="clock" :size="15" /> <b>{{ s.name }}</b> is out of date
    </header>
    <ul>
      <li v-for="(source, n) in s.sources.filter((x) => x.state !== 'fresh')" :key="n">{{ source.text }}</li>
    </ul>
    <template v-if="making.looks[making.keyOf(s)]">
      <p class="muted" data-testid="renewal">
        {{ mass(making.looks[making.keyOf(s)].before) }} → {{ mass(making.looks[making.keyOf(s)].after) }}
      </p>
      <p v-for="t in making.looks[making.keyOf(s)].troubles" :key="t.text" class="bad">{{ t.text }}</p>
      <p v-for="t in making.looks[making.keyOf(s)].left" :key="t" class="bad">{{ t }}: stays as it was taken</p>
    </template>
    <footer>
      <button class="btn small" data-testid="look-renewed" @click="making.look(s)">What would change</button>
      <button class="btn small main" data-testid="renew" @click="making.renew(s)">Bring up to date</button>
    </footer>
  </article>
  <section v-if="making.listed" class="fresh" data-testid="references">
    <header>
      <b>Who takes from whom</b>
      <button class="icon-btn" aria-label="Close" title="Close" @click="making.listed = false"><Icon name="close" :size="14" /></button>
    </header>
    <p v-if="!making.status.length" class="muted">
      No part here takes from its neighbours. Choose a part and “Take from neighbours”, or make one in place.
    </p>
    <p v-else-if="!fresh.length" class="muted">All that take from neighbours are out of date.</p>
    <div v-for="s in fresh" :key="making.keyOf(s)">
      <button class="quiet" :title="`Go on in ${s.name}`" @click="making.edit(s.document, s.component)">{{ s.name }}</button>
      <span class="muted">up to date</span>
      <ul>
        <li v-for="(source, n) in s.sources" :key="n">{{ source.text }}</li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.stale {
  margin: 6px 0;
  padding: 8px 10px;
  border: 1px solid var(--line);
  border-left: 3px solid var(--bad);
  border-radius: 6px;
  font-size: 12.5px;
}
header {
  display: flex;
  gap: 6px;
  align-items: center;
}
.fresh {
  margin: 6px 0;
  padding: 6px 10px;
  border: 1px solid var(--line);
  border-radius: 6px;
  font-size: 12.5px;
}
.fresh header {
  justify-content: space-between;
}
.fresh div {
  margin: 4px 0;
}
.quiet {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  font-weight: 600;
  cursor: pointer;
}
ul {
  margin: 4px 0;
  padding-left: 22px;
}
p {
  margin: 3px 0;
}
.bad {
  color: var(--bad);
}
footer {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  margin-top: 6px;
}
</style>
