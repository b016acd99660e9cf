<script lang="ts">
import { type FieldType } from './types'

const held = (value: unknown): string[] => (value as string[] | undefined) ?? []

export const does: FieldType = {
  wanted: () => 'face',
  take: ({ hit, value }) => (held(value).includes(hit.body) ? held(value).filter((b) => b !== hit.body) : [...held(value), hit.body]),
  bodies: held,
  before: true,
}
</script>

<script setup lang="ts">
// Bodies there are when the step begins, and sets of them.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import ChipRow from '../ChipRow.vue'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { edited, doc, list, before, report, focused, focus, toggle } = useField(props)
const standing = computed(() => (edited.before ?? doc.build)?.bodies ?? [])
const sets = computed(() => before.value.filter((s) => report(s.id)?.gathers === 'body'))
const nameOf = (id: string): string => standing.value.find((b) => b.id === id)?.name ?? 'a body that is gone'
/** Chosen ones that are not there any more. */
const lost = computed(() =>
  (list.value as string[]).filter((id) => !standing.value.some((b) => b.id === id) && !sets.value.some((s) => s.id === id)),
)
</script>

<template>
  <FieldRow v-if="standing.length > 1" :field="field">
    <ChipRow>
      <button v-for="b in standing" :key="b.id" class="chip" :class="{ on: list.includes(b.id) }" @click="toggle(b.id)">
        {{ b.name }}
      </button>
      <button v-for="id in lost" :key="id" class="chip on gone" title="It is not there any more: click to leave it out" @click="toggle(id)">
        {{ nameOf(id) }}
      </button>
      <button
        v-for="s in sets"
        :key="s.id"
        class="chip"
        :class="{ on: list.includes(s.id) }"
        :title="`All bodies that ${s.name} gathers`"
        :data-testid="`set-${field.name}-${s.id}`"
        @click="toggle(s.id)"
      >
        {{ s.name }}
      </button>
      <button
        class="pickbox"
        :class="{ on: focused }"
        title="Click bodies in the picture"
        :data-testid="`picks-${field.name}`"
        @click="focus"
      >
        Click them
      </button>
      <small v-if="!list.length" class="muted">{{ field.free ? 'the first' : 'all' }}</small>
    </ChipRow>
  </FieldRow>
</template>

<style scoped>
.gone {
  text-decoration: line-through;
}
</style>
