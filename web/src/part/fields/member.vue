<script setup lang="ts">
// Which member of the part named in another field.
import { ref, shallowRef, watch } from 'vue'
import { call, type FieldView } from '../../api/client'
import ChooseMember, { type Chosen } from '../../members/ChooseMember.vue'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { edited, doc, value, id, set } = useField(props)
const choosing = ref(false)
const there = shallowRef<{ document: string; name: string; member: string; any: boolean } | null>(null)
watch(
  () => [edited.fields[props.field.of ?? ''], value.value] as [string | undefined, Chosen | null],
  async ([document, chosen], before) => {
    if (before?.[0] && document !== before[0] && chosen) return set(null)
    if (!document) return void (there.value = null)
    try {
      const { document: part } = await call('get', '/api/documents/{id}', { path: { id: document } })
      const found = await call('get', '/api/documents/{id}/members', { path: { id: document } })
      const words = [
        found.rows.find((r) => r.id === (chosen?.variant ?? null))?.name ?? 'gone',
        ...found.options.map((o) => `${o.name} ${chosen?.options?.[o.id] ?? o.default}`),
        ...(chosen?.revision ? [`r ${chosen.revision}`] : []),
      ]
      const any = Boolean(found.rows.length > 1 || found.options.length || chosen)
      there.value = { document, name: part.name, member: words.join(' · '), any }
    } catch (error) {
      doc.refused(error)
    }
  },
  { immediate: true },
)
function take(chosen: Chosen): void {
  choosing.value = false
  const plain = !chosen.variant && !Object.keys(chosen.options).length && !chosen.revision
  set(plain ? null : chosen)
}
</script>

<template>
  <FieldRow v-if="there?.any" :field="field">
    <button :id="id" class="field member" data-testid="choose-variant" @click="choosing = !choosing">{{ there.member }}</button>
  </FieldRow>
  <ChooseMember
    v-if="choosing && there"
    :key="there.document"
    :document="there.document"
    :name="there.name"
    :chosen="value ? (value as Chosen) : { variant: null, options: {} }"
    verb="Take"
    @take="take"
    @leave="choosing = false"
  />
</template>

<style scoped>
.member {
  text-align: left;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
