<script setup lang="ts">
// A job under way: how far, and a way to stop it.
import type { Job } from './store'
import { useJobs } from './store'

defineProps<{ job: Job; what: string }>()
const jobs = useJobs()
</script>

<template>
  <div class="job" role="status" data-testid="job-line">
    <svg class="ring" viewBox="0 0 20 20" width="18" height="18" aria-hidden="true">
      <circle cx="10" cy="10" r="7.5" class="track" />
      <circle
        cx="10"
        cy="10"
        r="7.5"
        class="done"
        :stroke-dasharray="`${(job.progress * 47.1).toFixed(1)} 47.1`"
        transform="rotate(-90 10 10)"
      />
    </svg>
    <span>{{ what }} · {{ Math.round(job.progress * 100) }} %</span>
    <span class="muted stage">{{ job.stage }}</span>
    <button class="btn small" @click="jobs.cancel(job.id)">Stop</button>
  </div>
</template>

<style scoped>
.job {
  display: flex;
  align-items: center;
  gap: 9px;
  padding: 6px 0;
}
.stage {
  flex: 1;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
circle {
  fill: none;
  stroke-width: 3;
}
.track {
  stroke: var(--line-2);
}
.done {
  stroke: var(--accent);
}
</style>
