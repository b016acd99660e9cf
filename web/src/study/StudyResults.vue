<script setup lang="ts">
// What the run found: safety, deflection, balance of forces, and how far to trust the peak.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import JobLine from '../jobs/JobLine.vue'
import type { Job } from '../jobs/store'
import { trim } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { forceBare, length, stress, units } from '../ui/units'

type Force = [number, number, number]
interface Answer {
  nodes: number
  unknowns: number
  mesh_size: number
  peak: number
  peak_jump: number | null
  safety: number
  deflection: number
  imbalance: number
  reactions: { id: string; force: Force }[]
  reaction: Force
  load: Force
  corner: string | null
  growth: number | null
  away_from_corners: number | null
  seconds: Record<string, number>
  unfinished: string | null
  compared: { deflection: number; peak: number } | null
}
const props = defineProps<{ job: Job | null; stale: boolean }>()
defineEmits<{ run: [] }>()
const doc = useDocument()
const found = computed(() =>
  props.job?.state === 'done' ? (props.job.result as { answer: Answer; material: string; yield: number }) : null,
)
const force = (f: Force): string => f.map(forceBare).join(' · ')
const supportName = (id: string): string => doc.study?.supports?.find((s) => s.id === id)?.name ?? id
const corner = computed(() => {
  const a = found.value?.answer
  if (!a?.corner) return null
  const place = a.corner === 'inner' ? 'a sharp inner corner' : 'the border of a support'
  const away = a.away_from_corners ? ` Away from it the largest is ${stress(a.away_from_corners)}.` : ''
  if (a.growth && a.growth > 1.06)
    return {
      bad: true,
      text: `The peak stands at ${place} and grows with a finer mesh (${trim((a.growth - 1) * 100, 0)} % more at 0.6 of the size): it has no true value there.${a.corner === 'inner' ? ' Round the corner to learn it.' : ''}${away}`,
    }
  if (a.growth)
    return {
      bad: false,
      text: `The peak stands at ${place}, but hardly changes with a finer mesh (${trim((a.growth - 1) * 100, 1)} % at 0.6 of the size).${away}`,
    }
  const unfinished = a.unfinished
    ? ` A finer mesh, to see whether it does, could not be run (${a.unfinished === 'memory' ? 'it needs more memory than there is' : a.unfinished}).`
    : ''
  return {
    bad: true,
    text: `The peak stands at ${place}, where stress may grow without end as the mesh gets finer.${unfinished}${away}`,
  }
})
const compared = computed(() => {
  const c = found.value?.answer.compared
  if (!c) return null
  const [d, p] = [100 * (c.deflection - 1), 100 * (c.peak - 1)]
  const off = Math.max(Math.abs(d), Math.abs(p))
  const side = (v: number): string => `${trim(Math.abs(v), 0)} % ${v > 0 ? 'more' : 'less'}`
  const text = `Third-order elements on this mesh give ${side(d)} deflection and ${side(p)} stress`
  return off > 5 ? { bad: true, text: `${text}: the mesh is coarse for this part, take a finer one.` } : { bad: false, text: `${text}.` }
})
</script>

<template>
  <JobLine v-if="job && (job.state === 'running' || job.state === 'queued')" :job="job" what="Solving" />
  <p v-else-if="job?.state === 'failed'" class="trouble" data-testid="study-trouble">
    <Icon name="cross" :size="15" /> {{ job.error?.text }}
  </p>
  <div v-else-if="found" class="results" :class="{ stale }" data-testid="study-results">
    <dl>
      <dt>Safety factor</dt>
      <dd class="big" data-testid="safety">{{ trim(found.answer.safety, 2) }}</dd>
      <dt>Largest stress</dt>
      <dd>
        {{ stress(found.answer.peak) }}
        <small>{{
          found.answer.peak_jump === null ? 'at one element alone' : `± ${stress(found.answer.peak_jump)} between elements`
        }}</small>
      </dd>
      <dt>Yield strength</dt>
      <dd>
        {{ stress(found.yield) }} <small>{{ found.material }}</small>
      </dd>
      <dt>Deflection</dt>
      <dd>{{ length(found.answer.deflection) }}</dd>
    </dl>
    <dl>
      <dt>Loads X · Y · Z</dt>
      <dd>{{ force(found.answer.load) }} {{ units.force }}</dd>
      <template v-for="r in found.answer.reactions" :key="r.id"
        ><dt>{{ supportName(r.id) }}</dt>
        <dd>{{ force(r.force) }} {{ units.force }}</dd></template
      >
      <dt>Balance</dt>
      <dd :class="found.answer.imbalance < 1e-3 ? 'good' : 'bad'" data-testid="balance">
        <Icon :name="found.answer.imbalance < 1e-3 ? 'check' : 'cross'" :size="14" /> forces and moments cancel to
        {{ found.answer.imbalance.toExponential(1) }}
      </dd>
      <dt>Mesh</dt>
      <dd>
        {{ length(found.answer.mesh_size) }} · {{ found.answer.nodes.toLocaleString('en') }} nodes ·
        {{ found.answer.unknowns.toLocaleString('en') }} unknowns
      </dd>
    </dl>
    <p v-if="compared" class="corner" :class="{ bad: compared.bad }" data-testid="compared">
      <Icon :name="compared.bad ? 'alert' : 'check'" :size="15" /> {{ compared.text }}
    </p>
    <p v-if="corner" class="corner" :class="{ bad: corner.bad }">
      <Icon :name="corner.bad ? 'alert' : 'check'" :size="15" /> {{ corner.text }}
    </p>
  </div>
  <p v-else class="muted">
    Not solved yet. Hold faces, put loads on, then Solve. <button class="btn small" @click="$emit('run')">Solve</button>
  </p>
</template>

<style scoped>
.results {
  display: grid;
  grid-template-columns: 1fr 1.4fr;
  gap: 4px 30px;
}
.results.stale {
  opacity: 0.5;
}
dl {
  display: grid;
  grid-template-columns: 120px 1fr;
  gap: 3px 10px;
  margin: 4px 0;
  align-items: baseline;
}
dt {
  color: var(--ink-3);
}
dd {
  margin: 0;
}
.big {
  font-size: 20px;
  font-weight: 600;
}
small {
  color: var(--ink-3);
}
.good {
  color: var(--up);
}
.bad {
  color: var(--bad);
}
.good svg,
.bad svg {
  vertical-align: -2px;
}
.corner {
  grid-column: 1 / -1;
  display: flex;
  gap: 8px;
  color: var(--ink-2);
  margin: 2px 0;
}
.corner.bad {
  color: var(--loose);
}
</style>
