<script setup lang="ts">
// Parts that take from what stands around them, where that has changed: what, what it would do, one click.
import { computed } from 'vue'
import { mass } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { useMaking } from './inplace'

const making = useMaking()
const stale = computed(() => making.status.filter((s) => !s.fresh))
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
