<script lang="ts">
import { type FieldType } from './types'

export const does: FieldType = { drawn: true }
</script>

<script setup lang="ts">
// Points of a sketch, chosen in the picture.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import PickBox from '../PickBox.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { list } = useField(props)
const words = computed(() => (list.value.length ? `${list.value.length} point${list.value.length === 1 ? '' : 's'}` : 'all loose points'))
</script>

<template>
  <FieldRow :field="field">
    <PickBox :field="field" :words="words" />
  </FieldRow>
</template>
