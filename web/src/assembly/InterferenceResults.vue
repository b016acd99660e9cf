<script setup lang="ts">
// Pairs that overlap, come near or touch, under what they mean; a row shows its pair in the picture.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import JobLine from '../jobs/JobLine.vue'
import { useJobs } from '../jobs/store'
import Icon from '../ui/Icon.vue'
import LengthInput from '../ui/LengthInput.vue'
import { fineLength, fineVolume } from '../ui/units'
import { type FitRow, useFit } from './fit'
import { useAssembly } from './store'

const doc = useDocument()
const asm = useAssembly()
const jobs = useJobs()
const fit = useFit()

const under = computed(() => fit.job?.state === 'running' || fit.job?.state === 'queued')
const old = computed(() => fit.job !== null && jobs.isOld(fit.job.id))
const positions = computed(() => doc.assembly?.positions ?? [])
const severalPlaces = computed(() => new Set(fit.result?.positions.map((p) => p.id)).size > 1)
const left = (names: string[]): string =>
  `Not looked at, for ${names.length === 1 ? 'it is a surface' : 'they are surfaces'}: ${names.slice(0, 4).join(', ')}${names.length > 4 ? ` and ${names.length - 4} more` : ''}`
const NEWS = { new: 'new', grown: 'deeper', less: 'less deep' } as const
/** What a row says beside its numbers. */
function note(r: FitRow): string {
  const said: string[] = []
  if (r.inside) said.push(`${r.inside === 'a' ? r.name_a : r.name_b} is wholly inside`)
  if (r.reason && !r.meant) said.push(r.reason)
  if (r.class === 'grown') said.push(r.trouble || `${fineLength(r.allowed ?? 0)} is allowed`)
  if (r.variant_name) said.push(r.variant_name)
  if (severalPlaces.value) said.push(r.position_name || 'as it stands')
  if (r.class === 'untold') said.push('could not be told: the kernel ended over it')
  return said.join(' · ')
}
/** What is kept of an overlap that is meant. */
const said = (r: FitRow) => (r.meant ? doc.assembly?.meant?.find((m) => m.id === r.meant) : undefined)
const HOW: Record<string, string> = {
  triangles: 'their triangles are further apart than these err',
  distance: 'least distance of the true faces',
  solid: 'the exact common solid',
  places: 'places on the true faces',
  flats: 'the triangles of their flat faces',
}
const reached = (r: FitRow): string => `Found by ${r.how.map((h) => HOW[h]).join(', and by ')}`
/** What is offered as allowed: what it is now with a tenth of room. */
const room = (r: FitRow): string => `${Number((r.depth * 1.1).toPrecision(2))} mm`
</script>

<template>
  <section>
    <h3>
      Interference
      <span v-if="old && !under" class="old" data-testid="fit-old">out of date: something moved or changed since</span>
    </h3>
    <div class="wish">
      <button class="btn small" :class="{ main: !fit.result || old }" data-testid="run-interference" @click="fit.run()">
        <Icon name="combine" :size="14" />
        {{ asm.selected.length > 1 ? `Among ${asm.selected.length} chosen` : 'Whole assembly' }}
      </button>
      <label>near below <LengthInput v-model="fit.wish.clearance" label="Tell of pairs nearer than" data-testid="fit-clearance" /></label>
      <label title="Overlaps no deeper than this are no fault"
        >no fault up to <LengthInput v-model="fit.wish.tolerance" label="No fault up to a depth of" data-testid="fit-tolerance"
      /></label>
      <label title="Without, a sub-assembly is one thing: what overlaps inside it is not looked at">
        <input v-model="fit.wish.inside" type="checkbox" data-testid="fit-inside" /> inside sub-assemblies
      </label>
      <label v-if="doc.assembly?.variants?.length" title="Looked for in what is as drawn and in each variant">
        <input v-model="fit.wish.variants" type="checkbox" data-testid="fit-variants" /> in every variant
      </label>
      <template v-if="positions.length">
        <label v-for="p in positions" :key="p.id">
          <input v-model="fit.wish.positions" type="checkbox" :value="p.id" :data-testid="`fit-in-${p.name}`" /> {{ p.name }}
        </label>
      </template>
    </div>
    <JobLine v-if="fit.job && under" :job="fit.job" what="Looking for overlaps" />
    <p v-else-if="fit.job?.state === 'failed'" class="trouble">{{ fit.job.error?.text }}</p>
    <p v-if="!fit.result && !under" class="muted">Not looked at yet. Touching is not overlap; each pair says how it was found.</p>
    <template v-else-if="fit.result">
      <p v-if="fit.result.faults === 0" class="good" data-testid="no-overlap">
        <Icon name="check" :size="15" />
        {{ fit.result.left.length ? 'No solids overlap' : 'Nothing overlaps'
        }}{{ fit.groups.some((g) => ['intended', 'thread', 'within'].includes(g.key)) ? ' but what is meant' : '' }}:
        {{ fit.result.components }} components, {{ fit.result.near }} near pairs looked at, {{ fit.result.computed }} of them anew.
      </p>
      <table v-if="fit.groups.length" class="grid">
        <thead>
          <tr>
            <th>Components</th>
            <th class="r">Volume</th>
            <th class="r">Depth</th>
            <th class="r">Gap</th>
            <th></th>
          </tr>
        </thead>
        <tbody v-for="g in fit.groups" :key="g.key" :data-testid="`fit-${g.key}`">
          <tr class="head" @click="fit.fold(g.key)">
            <td colspan="5">
              <Icon :name="g.folded ? 'right' : 'down'" :size="12" />
              <b :class="{ bad: ['bad', 'grown', 'hardware'].includes(g.key) }">{{ g.label }}</b> {{ g.rows.length }}
            </td>
          </tr>
          <template v-if="!g.folded">
            <tr
              v-for="r in g.rows"
              :key="(r.variant ?? '') + r.position + r.a + r.b"
              class="link"
              :class="{ on: fit.row === r }"
              :title="reached(r)"
              data-testid="overlap"
              @click="fit.row === r ? fit.leave() : fit.look(r)"
            >
              <td>
                {{ r.name_a }} × {{ r.name_b }} <i v-if="r.news" :class="r.news">{{ NEWS[r.news] }}</i>
                <div v-if="note(r)" class="note">{{ note(r) }}</div>
                <div v-if="said(r)" class="note said" @click.stop>
                  <input
                    class="field"
                    :value="said(r)!.reason"
                    aria-label="Why it is meant"
                    data-testid="meant-reason"
                    @keydown.stop
                    @change="fit.edit(r, { reason: ($event.target as HTMLInputElement).value })"
                  />
                  up to
                  <input
                    class="field depth"
                    :value="said(r)!.depth"
                    aria-label="How deep it may be"
                    data-testid="meant-depth"
                    @keydown.stop
                    @change="fit.edit(r, { depth: ($event.target as HTMLInputElement).value })"
                  />
                </div>
              </td>
              <td class="r">{{ r.state === 'overlap' ? `${r.certain ? '' : '≈ '}${fineVolume(r.volume)}` : '' }}</td>
              <td class="r">{{ r.state === 'overlap' ? fineLength(r.depth) : '' }}</td>
              <td class="r">{{ r.state === 'clear' ? fineLength(r.gap) : '' }}</td>
              <td class="r">
                <button v-if="r.meant" class="btn small" title="Told as an overlap again" data-testid="unmean" @click.stop="fit.unmean(r)">
                  Not meant
                </button>
                <button
                  v-if="r.state === 'overlap' && r.class !== 'intended' && r.class !== 'thread'"
                  class="btn small"
                  :title="`A press fit, a seal: no fault up to ${room(r)}`"
                  data-testid="mean"
                  @click.stop="fit.mean(r, r.reason || 'press fit', room(r))"
                >
                  Meant
                </button>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
      <p v-if="fit.result.gone?.length" class="muted" data-testid="fit-gone">
        Gone since the last run:
        {{
          fit.result.gone
            .map((r) => `${r.name_a} × ${r.name_b}`)
            .slice(0, 5)
            .join(', ')
        }}{{ fit.result.gone.length > 5 ? ` and ${fit.result.gone.length - 5} more` : '' }}
      </p>
      <p v-if="fit.result.left.length" class="left" data-testid="left-out"><Icon name="alert" :size="15" /> {{ left(fit.result.left) }}</p>
    </template>
  </section>
</template>

<style scoped>
section {
  min-width: 0;
}
h3 {
  font-size: 13px;
  margin-bottom: 4px;
}
p {
  margin: 4px 0;
}
.wish {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  margin-bottom: 4px;
}
.wish label {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  color: var(--ink-2);
}
.wish :deep(input.field) {
  width: 72px;
}
.r {
  text-align: right !important;
  white-space: nowrap;
}
.link,
.head {
  cursor: pointer;
}
.on td {
  background: var(--accent-soft);
}
.head td {
  padding-top: 6px;
}
.note {
  color: var(--ink-3);
  font-size: 12px;
}
i {
  font-style: normal;
  font-size: 11px;
  padding: 0 5px;
  border-radius: 8px;
  background: var(--panel-2);
}
i.new,
i.grown {
  color: var(--bad);
}
.said {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-top: 2px;
}
.said .field {
  height: 22px;
  width: 110px;
  font-size: 12px;
}
.said .depth {
  width: 78px;
}
.good {
  color: var(--up);
}
.good svg,
.left svg {
  vertical-align: -3px;
}
.bad,
.left,
.old {
  color: var(--bad);
}
.old {
  font-weight: 400;
  margin-left: 8px;
}
</style>
