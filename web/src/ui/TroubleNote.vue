<script setup lang="ts">
import type { Report } from '../api/client'
import { useHelp } from '../help/store'
import Icon from './Icon.vue'

defineProps<{ report: Report }>()
const help = useHelp()
defineEmits<{ take: [offer: { label: string; fields?: Record<string, unknown>; commands?: Record<string, unknown>[] }] }>()
</script>

<template>
  <div class="trouble" role="alert">
    <Icon name="cross" :size="16" />
    <div>
      {{ report.text }} <button v-if="report.code" class="why" :title="`What this means: ${report.code}`" data-testid="why" @click.stop="help.show(`message:${report.code}`)">What does this mean?</button>
      <div v-if="report.offers?.length" class="offers">
        <button v-for="offer in report.offers" :key="offer.label" class="btn small" @click="$emit('take', offer)">
          {{ offer.label }}
        </button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.why { border: 0; background: none; color: inherit; opacity: 0.75; font: inherit; text-decoration: underline; text-underline-offset: 2px; padding: 0; cursor: pointer; }
.why:hover { opacity: 1; }
</style>
