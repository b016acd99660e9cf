<script setup lang="ts">
// The numbers of a joint that differ between variants, or may: what it is held at, its limits, its offset;
// and whether it is asleep. While columns are being chosen each says which it is.
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { useRegistries } from '../document/store'
import DriveMark from '../members/DriveMark.vue'
import { useMembers } from '../members/store'

const props = defineProps<{ joint: Schemas['Joint']; coordinates: { name: string; label: string }[] }>()
const registries = useRegistries()
const members = useMembers()
const WORDS = { value: 'held at', least: 'from', most: 'to' } as const
interface Mark {
  drives: string
  of: Record<string, string>
  word: string
  icon?: string
}
const marks = computed<Mark[]>(() => {
  const { id, kind, motions } = props.joint
  const of = (field: string): Record<string, string> => ({ group: 'joints', id, field })
  const several = props.coordinates.length > 1
  return [
    ...props.coordinates.flatMap((c) =>
      (['value', 'least', 'most'] as const)
        .filter((field) => motions?.[c.name]?.[field])
        .map((field) => ({
          drives: 'item',
          of: of(`motions.${c.name}.${field}`),
          word: several ? `${c.label.toLowerCase()} ${WORDS[field]}` : WORDS[field],
        })),
    ),
    ...(registries.found?.joints.find((k) => k.kind === kind)?.shifts ? [{ drives: 'item', of: of('offset'), word: 'offset' }] : []),
    { drives: 'asleep', of: { group: 'joints', id }, word: 'asleep', icon: 'moon' },
  ]
})
const shown = computed(() => (members.driving !== null ? marks.value : marks.value.filter((m) => members.driver(m.drives, m.of))))
</script>

<template>
  <p v-if="shown.length" class="marks muted">
    <span v-for="m in shown" :key="m.word">
      {{ m.word }} <DriveMark :drives="m.drives" :of="m.of" :icon="m.icon" :what="`${joint.name}: ${m.word}`" />
    </span>
  </p>
</template>

<style scoped>
.marks {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 0 6px 2px 2px;
  font-size: 12px;
}
.marks span {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
</style>
