<script setup lang="ts">
import type { Report } from '../api/client'
import Why from '../help/Why.vue'
import Icon from './Icon.vue'

defineProps<{ report: Report }>()
defineEmits<{ take: [offer: { label: string; fields?: Record<string, unknown>; commands?: Record<string, unknown>[] }] }>()
</script>

<template>
  <div class="trouble" role="alert">
    <Icon name="cross" :size="16" />
    <div>
      {{ report.text }} <Why :code="report.code" />
      <div v-if="report.offers?.length" class="offers">
        <button v-for="offer in report.offers" :key="offer.label" class="btn small" @click="$emit('take', offer)">
          {{ offer.label }}
        </button>
      </div>
    </div>
  </div>
</template>
