<script setup lang="ts">
// What the colours mean, the threshold, and the places worth going to.
import { computed } from 'vue'
import Icon from '../ui/Icon.vue'
import { trim } from '../ui/format'
import { fieldBands, type FieldMap, type Place, thinShare, topOf, wallTone } from './fields'
import type { LookState } from './look'
import { bands } from './maps'
import type { Triple } from './mesh'
import { rowOf, WAYS } from './styles'
import { area as areaText, bare, length } from '../ui/units'

const props = defineProps<{ look: LookState; places: { body: string; place: Place }[] }>()
defineEmits<{ place: [i: number] }>()

const row = computed(() => rowOf(props.look.style.value))
const threshold = computed({
  get: () => props.look.thresholds.value[row.value.style] ?? 0,
  set: (v: number) => props.look.setThreshold(row.value.style, v),
})
const way = computed({ get: () => props.look.way.value, set: (v: string) => props.look.setWay(v) })
const colours = computed(() => {
  const { faces, field } = row.value
  if (faces) return bands({ kind: faces, way: [0, 0, 1] as Triple, threshold: threshold.value })
  return field ? fieldBands(field, trimmed.value) : []
})
const trimmed = computed(() => +threshold.value.toFixed(2))
const fields = computed<FieldMap[]>(() => [...(props.look.fields.value?.values() ?? [])])
const gradient = computed(() => {
  const stops = Array.from({ length: 9 }, (_, i) => threshold.value + ((topOf(threshold.value) - threshold.value) * i) / 8)
  return `linear-gradient(to right, ${stops.map((v) => `rgb(${wallTone(v, threshold.value).map(Math.round).join(' ')})`).join(', ')})`
})
const thin = computed(() => thinShare(fields.value, threshold.value))
const least = (key: 'least_hollow' | 'least_bulge'): number | null => {
  const all = fields.value.map((f) => f.told[key]).filter((v): v is number => v != null)
  return all.length ? Math.min(...all) : null
}
const area = computed(() => fields.value.reduce((sum, f) => sum + (f.told.area ?? 0), 0))
const unit = computed(() => row.value.slider?.[4] ?? '')
</script>

<template>
  <div v-if="row.legend" class="legend" data-testid="legend" @pointerdown.stop>
    <b>{{ row.legend }}</b>
    <select v-if="row.directed" v-model="way" class="field" aria-label="Direction">
      <option v-for="[word] in WAYS" :key="word">{{ word }}</option>
    </select>
    <p v-if="look.busy.value" class="muted">working it out …</p>
    <p v-else-if="look.trouble.value" class="bad">{{ look.trouble.value }}</p>
    <template v-else>
      <div v-if="row.style === 'thickness'" class="ramp">
        <i :style="{ background: gradient }" />
        <span>{{ bare(trimmed) }}</span><span>{{ bare((threshold + topOf(threshold)) / 2) }}</span
        ><span>{{ length(topOf(threshold)) }} and more</span>
      </div>
      <p v-for="b in colours" :key="b.tone"><i :style="{ background: b.tone }" /> {{ b.words }}</p>
      <p v-if="row.style === 'stripes'" class="muted words">
        They break at an edge, kink where faces only meet smoothly, and run through where they also bend alike.
      </p>
      <label v-if="row.slider" class="slide">
        <input
          v-model.number="threshold"
          type="range"
          :min="row.slider[0]"
          :max="row.slider[1]"
          :step="row.slider[2]"
          aria-label="Threshold"
        />
        <span class="num">{{ unit === '°' ? `${trimmed}°` : length(trimmed) }}</span>
      </label>
      <p v-if="row.style === 'thickness' && fields.length" class="told" data-testid="thin-share">
        {{ thin > 0 ? `${trim(100 * thin, thin < 0.1 ? 1 : 0)} % of the skin is thinner` : 'no wall is thinner' }}
      </p>
      <p v-if="row.style === 'undercut' && fields.length" class="told">
        {{ area > 0.5 ? `${areaText(area)} let go neither way` : 'no undercut' }}
      </p>
      <p v-if="row.style === 'curvature' && fields.length" class="told">
        tightest hollow {{ least('least_hollow') === null ? 'none' : `R ${bare(least('least_hollow')!)}` }} · bulge
        {{ least('least_bulge') === null ? 'none' : `R ${bare(least('least_bulge')!)}` }}
      </p>
      <ul v-if="places.length">
        <li v-for="({ place }, i) in places" :key="i">
          <button :data-testid="`place-${i}`" title="Look there" @click="$emit('place', i)">
            <Icon name="refer" :size="13" /> {{ i + 1 }} ·
            {{
              row.style === 'thickness' ? length(place.value) : row.style === 'undercut' ? areaText(place.value) : `R ${bare(place.value)}`
            }}
          </button>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.legend {
  position: absolute;
  right: 12px;
  bottom: 12px;
  z-index: 4;
  width: 216px;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 7px 10px;
  box-shadow: var(--shadow);
  font-size: 12px;
}
.legend p {
  margin: 3px 0;
  display: flex;
  align-items: center;
  gap: 7px;
}
.legend p.words {
  display: block;
  line-height: 1.35;
}
.legend p > i {
  width: 14px;
  height: 14px;
  border-radius: 3px;
  flex: none;
}
.legend .field {
  height: 22px;
  padding: 0 2px;
  margin-left: 6px;
}
.ramp {
  display: grid;
  grid-template-columns: auto 1fr auto;
  margin: 5px 0;
  font-size: 11px;
}
.ramp i {
  grid-column: 1 / -1;
  height: 12px;
  border-radius: 3px;
  margin-bottom: 2px;
}
.ramp span:nth-of-type(2) {
  text-align: center;
}
.slide {
  display: flex;
  gap: 8px;
  align-items: center;
}
.slide input {
  flex: 1;
  min-width: 0;
  accent-color: var(--accent);
}
.num {
  min-width: 44px;
  text-align: right;
  white-space: nowrap;
}
.told {
  color: var(--ink-2);
}
.bad {
  color: var(--bad);
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  display: grid;
  grid-template-columns: 1fr 1fr;
}
li button {
  display: flex;
  gap: 5px;
  align-items: center;
  width: 100%;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  padding: 2px 0;
  cursor: pointer;
  text-align: left;
}
li button:hover {
  color: var(--accent);
}
</style>
