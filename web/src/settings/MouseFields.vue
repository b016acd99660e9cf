<script setup lang="ts">
// Mouse buttons: three schemes, or one's own.
import { computed } from 'vue'
import { type Binding, type Scheme, SCHEMES, wrong } from './mouse'
import { useHabits } from './store'

const habits = useHabits()
const WORDS = { turn: 'Turn', shift: 'Shift', zoom: 'Zoom' } as const
const problem = computed(() => (habits.scheme === 'own' ? wrong(habits.own) : null))
const line = computed(() =>
  habits.scheme === 'own' ? 'Each with a button of its own; the wheel always zooms' : SCHEMES[habits.scheme].line,
)
function put(i: number, change: Partial<Binding>): void {
  habits.own = habits.own.map((b, k) => (k === i ? { ...b, ...change } : b))
}
const value = (event: Event): string => (event.target as HTMLSelectElement).value
</script>

<template>
  <div class="mouse" data-testid="mouse-fields">
    <span class="segmented" role="group">
      <button
        v-for="key in ['right', 'middle', 'held', 'own'] as Scheme[]"
        :key="key"
        type="button"
        :class="{ on: habits.scheme === key }"
        :data-testid="`mouse-${key}`"
        @click="habits.scheme = key"
      >
        {{ key === 'own' ? 'Own' : SCHEMES[key].word }}
      </button>
    </span>
    <p class="muted">{{ line }}</p>
    <template v-if="habits.scheme === 'own'">
      <label v-for="(b, i) in habits.own" :key="b.does"
        >{{ WORDS[b.does] }}
        <span>
          <select class="field" :value="b.with" @change="put(i, { with: value($event) as Binding['with'] })">
            <option value="">alone</option>
            <option value="shift">Shift</option>
            <option value="ctrl">Ctrl</option>
            <option value="alt">Alt</option>
          </select>
          <select class="field" :value="b.button" @change="put(i, { button: Number(value($event)) as Binding['button'] })">
            <option :value="0">left</option>
            <option :value="1">middle</option>
            <option :value="2">right</option>
          </select>
        </span>
      </label>
      <p v-if="problem" class="bad">{{ problem }}</p>
    </template>
  </div>
</template>

<style scoped>
.mouse {
  display: grid;
  gap: 7px;
  justify-items: start;
}
.mouse label {
  width: 100%;
}
.mouse label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  color: var(--ink-2);
}
.mouse label span {
  display: inline-flex;
  gap: 5px;
}
.field {
  width: 82px;
  color: var(--ink);
}
p {
  margin: 0;
  font-size: 12px;
  line-height: 1.4;
}
.bad {
  color: var(--bad);
}
</style>
