<script setup lang="ts">
// A plain length in mm, shown and read in the document's unit; what cannot be read is put back.
import { bare, length, readLength, units } from './units'

defineOptions({ inheritAttrs: false })
const model = defineModel<number>({ required: true })
const props = defineProps<{ least?: number; label?: string; plain?: boolean }>()
function take(event: Event): void {
  const field = event.target as HTMLInputElement
  const value = readLength(field.value)
  if (value !== null && value >= (props.least ?? -Infinity)) model.value = value
  field.value = bare(model.value)
}
</script>

<template>
  <span class="length"
    ><input
      v-bind="$attrs"
      class="field"
      :value="bare(model)"
      :aria-label="label"
      :title="length(model)"
      @keydown.stop
      @change="take"
    /><template v-if="!plain"> {{ units.length }}</template></span
  >
</template>

<style scoped>
.length {
  display: inline-flex;
  align-items: baseline;
  gap: 4px;
  white-space: nowrap;
}
.field {
  width: 58px;
  text-align: right;
}
</style>
