<script setup lang="ts">
// Units and places, with an example of how values will look.
import { computed, ref } from 'vue'
import { inUnits, type Units } from '../ui/units'

const model = defineModel<Units>({ required: true })
/** With `fold` only the usual sets are shown until asked for more. */
const props = defineProps<{ fold?: boolean }>()
const all = ref(!props.fold)
const set = (put: Partial<Units>): void => {
  model.value = { ...model.value, ...put }
}
/** Inches and feet can be told in fractions; everything else is in decimals. */
const inches = computed(() => ['in', 'ft'].includes(model.value.length))
const SETS: [string, Partial<Units>][] = [
  ['mm and grams', { length: 'mm', mass: 'g', force: 'N', stress: 'MPa', places: 3, fractions: 0 }],
  ['Inches and pounds', { length: 'in', mass: 'lb', force: 'lbf', stress: 'psi', places: 4, fractions: 0 }],
  ['Feet and inches', { length: 'ft', mass: 'lb', force: 'lbf', stress: 'psi', places: 3, fractions: 16 }],
]
const is = (put: Partial<Units>): boolean => Object.entries(put).every(([k, v]) => model.value[k as keyof Units] === v)
const example = computed(() => inUnits(model.value))
const value = (event: Event): string => (event.target as HTMLSelectElement).value
</script>

<template>
  <div class="units" data-testid="units-fields">
    <div class="sets">
      <button v-for="[word, put] in SETS" :key="word" type="button" class="chip" :class="{ on: is(put) }" @click="set(put)">
        {{ word }}</button><button v-if="!all" type="button" class="chip" data-testid="units-all" @click="all = true">Own …</button>
    </div>
    <template v-if="all">
      <label
        >Length
        <select
          class="field"
          :value="model.length"
          data-testid="unit-length"
          @change="set({ length: value($event) as Units['length'], fractions: 0 })"
        >
          <option value="mm">mm</option>
          <option value="cm">cm</option>
          <option value="m">m</option>
          <option value="in">inches</option>
          <option value="ft">feet</option>
        </select>
      </label>
      <label v-if="inches"
        >Shown as
        <select
          class="field"
          :value="model.fractions"
          data-testid="unit-fractions"
          @change="set({ fractions: Number(value($event)) as Units['fractions'] })"
        >
          <option :value="0">decimals</option>
          <option v-for="n in [2, 4, 8, 16, 32, 64]" :key="n" :value="n">fractions of 1/{{ n }}</option>
        </select>
      </label>
      <label
        >Mass
        <select class="field" :value="model.mass" data-testid="unit-mass" @change="set({ mass: value($event) as Units['mass'] })">
          <option value="g">g</option>
          <option value="kg">kg</option>
          <option value="oz">oz</option>
          <option value="lb">lb</option>
        </select>
      </label>
      <label
        >Force
        <select class="field" :value="model.force" @change="set({ force: value($event) as Units['force'] })">
          <option value="N">N</option>
          <option value="kN">kN</option>
          <option value="lbf">lbf</option>
        </select>
      </label>
      <label
        >Stress
        <select class="field" :value="model.stress" @change="set({ stress: value($event) as Units['stress'] })">
          <option value="MPa">MPa</option>
          <option value="psi">psi</option>
          <option value="ksi">ksi</option>
        </select>
      </label>
      <label
        >Angle
        <select class="field" :value="model.angle" @change="set({ angle: value($event) as Units['angle'] })">
          <option value="deg">degrees</option>
          <option value="rad">radians</option>
        </select>
      </label>
      <label
        >Places
        <span>
          <select class="field short" :value="model.places" data-testid="unit-places" @change="set({ places: Number(value($event)) })">
            <option v-for="n in [0, 1, 2, 3, 4, 5, 6]" :key="n" :value="n">{{ n }}</option>
          </select>
          <select class="field" :value="model.rounding" @change="set({ rounding: value($event) as Units['rounding'] })">
            <option value="decimals">decimals</option>
            <option value="significant">significant</option>
          </select>
        </span>
      </label>
    </template>
    <p class="muted">Looks like {{ example }}</p>
  </div>
</template>

<style scoped>
.units {
  display: grid;
  gap: 7px;
}
.units label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  color: var(--ink-2);
}
.units label > span {
  display: inline-flex;
  gap: 5px;
}
.field {
  width: 132px;
  color: var(--ink);
}
.short {
  width: 52px;
}
.units label > span .field:last-child {
  width: 104px;
}
.sets {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.chip {
  border: 1px solid var(--line-2);
}
p {
  margin: 2px 0 0;
  font-size: 12px;
}
</style>
