<script setup lang="ts">
// Reading sizes off the sketch: click one thing, two, or a closed run.
import Icon from '../ui/Icon.vue'
import { dimensionFor, formOf } from './model'
import { useMeasure } from './measure'
import { useSketch } from './store'
import { area, shown as shownAs } from '../ui/units'

const sketch = useSketch()
const measure = useMeasure()
const keepable = (): string | null => {
  const on = sketch.selected
  return on.length && on.length < 3 && on.every((i) => !['parallel', 'text'].includes(formOf(sketch.drawing, i)))
    ? dimensionFor(sketch.drawing, on)
    : null
}
</script>

<template>
  <section class="ask-card" data-testid="measure-card">
    <header><Icon name="ruler" :size="16" /><b>Measure</b></header>
    <p v-if="!sketch.selected.length" class="muted">
      Click one thing for its sizes, two for what is between them, a closed run for its length and area.
    </p>
    <dl v-else>
      <template v-for="r in measure.readings" :key="r.label"
        ><dt>{{ r.label }}</dt>
        <dd :data-testid="`reading-${r.label}`">
          {{ r.dimension === 'area' ? area(r.value) : shownAs(r.dimension, r.value) }}
        </dd></template
      >
    </dl>
    <p v-if="sketch.selected.length && !measure.readings.length" class="muted">Nothing to read off here: click one more.</p>
    <footer>
      <button class="btn small" :disabled="!sketch.selected.length" @click="sketch.selected = []">Clear</button>
      <button
        v-if="keepable()"
        class="btn small"
        data-testid="keep-reading"
        title="Stays in the sketch and reads out"
        @click="measure.keep()"
      >
        Keep as a size that reads out
      </button>
    </footer>
  </section>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 10px;
  margin: 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  font-weight: 600;
  text-align: right;
}
</style>
