<script lang="ts">
import { type FieldType } from './types'

export const does: FieldType = { drawn: true }
</script>

<script setup lang="ts">
// Curves of a sketch.
import type { FieldView } from '../../api/client'
import DrawnBox from '../DrawnBox.vue'

defineProps<{ field: FieldView }>()
</script>

<template>
  <DrawnBox :field="field" word="curve" none="all curves" :ways="['One by one', 'Chains']" />
</template>
