<script setup lang="ts">
// The room a component takes up over the run that is shown.
import { computed } from 'vue'
import JobLine from '../jobs/JobLine.vue'
import { fineLength, fineVolume } from '../ui/units'
import { useEnvelopes } from './envelopes'

const envelopes = useEnvelopes()
const under = computed(() => ['queued', 'running'].includes(envelopes.job?.state ?? ''))
</script>

<template>
  <div v-if="envelopes.moving.length" class="envelope">
    <div class="ask">
      <span class="muted">Room taken by</span>
      <select
        class="field"
        aria-label="Whose room"
        data-testid="envelope-of"
        :value="envelopes.component"
        @change="envelopes.wanted = ($event.target as HTMLSelectElement).value"
      >
        <option v-for="m in envelopes.moving" :key="m.id" :value="m.id">{{ m.name }}</option>
      </select>
      <button
        class="btn small"
        :disabled="under"
        title="All places it is at over the run, as one body"
        data-testid="envelope"
        @click="envelopes.look()"
      >
        Envelope
      </button>
    </div>
    <JobLine v-if="envelopes.job && under" :job="envelopes.job" what="Following it" />
    <p v-else-if="envelopes.job?.state === 'failed'" class="bad">{{ envelopes.job.error?.text }}</p>
    <template v-else-if="envelopes.result">
      <p data-testid="envelope-found">
        Envelope of {{ envelopes.result.name }}: <b>{{ fineVolume(envelopes.result.volume) }}</b>, it lies up to
        {{ fineLength(envelopes.result.over) }} outside
        <span v-if="envelopes.old" class="bad">out of date</span>
      </p>
      <div class="ask">
        <button v-if="!envelopes.body" class="btn small" data-testid="envelope-show" @click="envelopes.show()">Show</button>
        <button v-else class="btn small" @click="envelopes.body = null">Hide</button>
        <button
          class="btn small"
          title="A part of the project that stands here anchored, to model against"
          data-testid="envelope-keep"
          @click="envelopes.keep()"
        >
          Keep as a part
        </button>
        <button class="btn small" @click="envelopes.save()">STL</button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.envelope {
  margin-top: 6px;
  border-top: 1px solid var(--line);
  padding-top: 6px;
}
.ask {
  display: flex;
  gap: 6px;
  align-items: center;
  flex-wrap: wrap;
}
.ask select {
  flex: 1 1 100px;
  min-width: 0;
}
p {
  margin: 4px 0;
}
.bad {
  color: var(--bad);
}
</style>
