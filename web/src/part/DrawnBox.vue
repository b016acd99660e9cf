<script setup lang="ts">
// What is chosen in the sketch drawn over the picture: how much, and in which of two ways.
import { computed } from 'vue'
import type { FieldView } from '../api/client'
import { useField } from './fields/use'
import FieldRow from './FieldRow.vue'
import PickBox from './PickBox.vue'
import WaysToChoose from './WaysToChoose.vue'

const props = defineProps<{ field: FieldView; word: string; none: string; ways?: [string, string] }>()
const { list } = useField(props)
const words = computed(() => (list.value.length ? `${list.value.length} ${props.word}${list.value.length === 1 ? '' : 's'}` : props.none))
</script>

<template>
  <FieldRow :field="field">
    <PickBox :field="field" :words="words">
      <template v-if="ways" #after><WaysToChoose :field="field" :words="ways" /></template>
    </PickBox>
  </FieldRow>
</template>
