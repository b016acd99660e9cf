<script setup lang="ts">
import { computed } from 'vue'
import { icons, type IconName } from './icons'

const props = withDefaults(defineProps<{ name: string; size?: number }>(), { size: 18 })
const picture = computed(() => icons[props.name as IconName] ?? icons.box)
</script>

<template>
  <component :is="picture" :width="size" :height="size" :size="size" :stroke-width="1.75" aria-hidden="true" style="flex: none" />
</template>
