<script lang="ts">
import { type FieldType } from './types'

export const does: FieldType = { drawn: true }
</script>

<script setup lang="ts">
// Regions of a sketch, chosen in the picture.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import PickBox from '../PickBox.vue'
import WaysToChoose from '../WaysToChoose.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { list } = useField(props)
const words = computed(() => (list.value.length ? `${list.value.length} region${list.value.length === 1 ? '' : 's'}` : 'all but holes'))
</script>

<template>
  <FieldRow :field="field">
    <PickBox :field="field" :words="words">
      <template #after><WaysToChoose :field="field" :words="['One by one', 'Inside outlines']" /></template>
    </PickBox>
  </FieldRow>
</template>
