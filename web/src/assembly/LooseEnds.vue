<script setup lang="ts">
// What is wrong with how components are put together, list by list; a row shows it in the picture.
import { computed } from 'vue'
import JobLine from '../jobs/JobLine.vue'
import { sentence } from '../ui/format'
import Icon from '../ui/Icon.vue'
import LengthInput from '../ui/LengthInput.vue'
import { useEnds } from './ends'

const ends = useEnds()
const under = computed(() => ends.job?.state === 'running' || ends.job?.state === 'queued')
</script>

<template>
  <section>
    <div class="wish">
      <button class="btn small" :class="{ main: !ends.result || ends.old }" data-testid="run-survey" @click="ends.run()">
        <Icon name="search" :size="14" /> Look it over
      </button>
      <label title="What is no further apart touches">touching up to <LengthInput v-model="ends.wish.near" label="Touching up to" /></label>
      <label title="Axes no further apart are in line"
        >in line up to <LengthInput v-model="ends.wish.tolerance" label="In line up to" data-testid="survey-tolerance"
      /></label>
      <span v-if="ends.old && !under" class="old" data-testid="ends-old">out of date: something moved or changed since</span>
    </div>
    <JobLine v-if="ends.job && under" :job="ends.job" what="Looking it over" />
    <p v-else-if="ends.job?.state === 'failed'" class="trouble">{{ ends.job.error?.text }}</p>
    <p v-if="!ends.result && !under" class="muted">
      Not looked over yet. It finds holes that do not line up or have no screw, components that nothing holds, and such as stand twice at
      one place or inside another.
    </p>
    <template v-else-if="ends.result">
      <p v-if="ends.result.left.length" class="bad">
        <Icon name="alert" :size="15" /> Not looked at, for {{ ends.result.left.length === 1 ? 'it is a surface' : 'they are surfaces' }}:
        {{ ends.result.left.slice(0, 4).join(', ') }}
      </p>
      <div class="lists">
        <div v-for="l in ends.result.lists" :key="l.kind" :data-testid="`ends-${l.kind}`">
          <h3 :title="l.line">
            {{ l.label }} <span v-if="l.rows.length" class="bad">{{ l.rows.length }}</span>
            <button
              v-if="!ends.held(l)"
              class="btn small plain"
              title="Looked over after every change, and red in the head bar when there is one"
              @click="ends.hold(l)"
            >
              <Icon name="gauge" :size="13" /> Keep as a check
            </button>
          </h3>
          <p v-if="!l.rows.length" class="good"><Icon name="check" :size="15" /> {{ sentence(l.none) }}</p>
          <ul v-else>
            <li
              v-for="(r, k) in l.rows"
              :key="k"
              class="link"
              :class="{ on: ends.shown(r) }"
              title="Show it in the picture"
              data-testid="end"
              @click="ends.look(r)"
            >
              {{ r.name_b ? `${r.name_a} × ${r.name_b}` : r.name_a }} <span class="muted">{{ r.text }}</span>
            </li>
          </ul>
        </div>
      </div>
    </template>
  </section>
</template>

<style scoped>
section {
  padding-top: 4px;
}
p {
  margin: 4px 0;
}
.wish {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  margin-bottom: 4px;
}
.wish label {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  color: var(--ink-2);
}
.wish :deep(input.field) {
  width: 72px;
}
.lists {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(380px, 1fr));
  gap: 4px 26px;
}
h3 {
  font-size: 13px;
  margin: 4px 0 2px;
  display: flex;
  gap: 8px;
  align-items: center;
}
h3 .plain {
  margin-left: auto;
  font-weight: 400;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding: 3px 6px;
  border-radius: 5px;
  cursor: pointer;
}
li:hover,
li.on {
  background: var(--accent-soft);
}
.good {
  color: var(--up);
}
.good svg,
.bad svg {
  vertical-align: -3px;
}
.bad,
.old {
  color: var(--bad);
}
</style>
