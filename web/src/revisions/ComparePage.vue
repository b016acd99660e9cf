<script setup lang="ts">
// Two states of a document beside each other: in one picture or in two, and all that differs in words.
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { foundOf, said, tone } from '../checks/words'
import { KINDS } from '../document/kinds'
import { useDocument, useRegistries } from '../document/store'
import { TONES } from '../part/compare'
import PageHead from '../shell/PageHead.vue'
import { change, mass } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { angle, length, shown, volume } from '../ui/units'
import type { BodySpec } from '../viewport/body'
import type { Engine } from '../viewport/engine'
import { follow } from '../viewport/linked'
import { fetchMesh } from '../viewport/mesh'
import ViewPane from '../viewport/ViewPane.vue'
import { asked as sideOf, compareAt, type Side, sides } from './asked'
import DifferenceList from './DifferenceList.vue'
import SideField from './SideField.vue'

const props = defineProps<{ id: string }>()
const route = useRoute()
const router = useRouter()
const doc = useDocument()
const registries = useRegistries()
const timeline = shallowRef<Schemas['TimelineView'] | null>(null)
const found = shallowRef<Schemas['CompareView'] | null>(null)
type Drawn = Schemas['DrawnView']
const drawn = shallowRef<{ sign: Drawn['sign']; body: BodySpec }[]>([])
const trouble = ref('')
const busy = ref(false)
const apart = ref(localStorage.getItem('compare') === 'apart')
const engines = shallowRef<(Engine | null)[]>([null, null])
const turn = turns()
const asked = computed(() => sides(route.query as Record<string, string>))

const KEPT = '#a9b4ae'
const TONE: Record<Drawn['sign'], string> = { kept: KEPT, was: KEPT, is: KEPT, moved: '#4f7396', ...TONES }
const faint = (sign: Drawn['sign']): boolean => TONE[sign] === KEPT
const spec = async (d: Drawn): Promise<BodySpec> => ({
  id: d.id,
  mesh: await fetchMesh(d.key),
  matrix: d.matrix,
  colour: TONE[d.sign],
  ...(faint(d.sign) ? { opacity: 0.34 } : { lifted: true }),
})

async function load(): Promise<void> {
  const newest = turn()
  busy.value = true
  trouble.value = ''
  try {
    const answer = await call('post', '/api/documents/{id}/compare', {
      path: { id: props.id },
      body: { before: sideOf(asked.value.before), after: sideOf(asked.value.after) },
    })
    const made = await Promise.all((answer.geometry?.drawn ?? []).map(async (d) => ({ sign: d.sign, body: await spec(d) })))
    if (!newest()) return
    drawn.value = made
    found.value = answer
    document.title = `${answer.after.name} compared · Vireo`
  } catch (error) {
    if (!newest()) return
    found.value = null
    trouble.value = error instanceof Error ? error.message : String(error)
  } finally {
    if (newest()) busy.value = false
  }
}
async function begin(): Promise<void> {
  await registries.load()
  await doc.open(props.id, (kind) => KINDS[kind].builds)
  timeline.value = await call('get', '/api/documents/{id}/revisions', { path: { id: props.id } })
}
onMounted(() => void begin().catch((error: unknown) => (trouble.value = String(error))))
onUnmounted(() => doc.close())
watch(asked, load, { immediate: true })
watch(apart, (on) => localStorage.setItem('compare', on ? 'apart' : 'one'))

const shows = (...signs: Drawn['sign'][]): BodySpec[] => drawn.value.filter((d) => signs.includes(d.sign)).map((d) => d.body)
const all = computed(() => shows('kept', 'is', 'moved', 'added', 'removed'))
/** What each of two panes shows: its own state, and the material it has alone. */
const panes = computed(() => [shows('kept', 'was', 'removed'), shows('kept', 'is', 'moved', 'added')])
function link(): void {
  if (apart.value) follow(engines.value[0], engines.value[1])
}
const put = (n: number, e: Engine): void => void (engines.value = engines.value.map((was, k) => (k === n ? e : was)))

const set = (which: 'before' | 'after', side: Side): void =>
  void router.replace(compareAt(props.id, which === 'before' ? side : asked.value.before, which === 'after' ? side : asked.value.after))
const swap = (): void => void router.replace(compareAt(props.id, asked.value.after, asked.value.before))
const choices = computed(() => ({
  id: props.id,
  revisions: timeline.value?.revisions.filter((r) => r.mine || r.version) ?? [],
  head: timeline.value?.head ?? 0,
  variants: doc.view?.document.variants?.map((v) => ({ id: v.id, name: v.name })) ?? [],
  others: [
    ...(timeline.value?.branches ?? []),
    ...(timeline.value?.origin ? [{ id: timeline.value.origin.document, name: timeline.value.origin.name }] : []),
  ],
}))
const named = (s: Schemas['SideView']): string => `${s.name}${s.member ? ` ${s.member}` : ''} · r ${s.revision}`
const sized = (s: Schemas['SideView']): string => s.size?.map((v) => shown('length', v)).join(' × ') ?? '·'
const volumes = computed(() => {
  const v = found.value?.geometry?.volumes
  return v ? (['kept', 'added', 'removed'] as const).map((sign) => ({ sign, text: volume(v[sign], true), tone: TONE[sign] })) : []
})
const WORDS = { came: 'new', went: 'gone', moved: 'moved', changed: 'changed' }
function told(row: Schemas['ComparedBodyView']): string {
  const said = [
    row.sign === 'changed' && row.added > 0 ? `+${volume(row.added, true)}` : '',
    row.sign === 'changed' && row.removed > 0 ? `−${volume(row.removed, true)}` : '',
    row.sign === 'changed' && !row.whole ? 'not all of it can be drawn' : '',
    row.sign === 'came' ? volume(row.added, true) : row.sign === 'went' ? volume(row.removed, true) : '',
    row.moved !== null ? `by ${length(row.moved)}` : '',
    row.turned ? `turned ${angle(row.turned)}` : '',
  ]
  return said.filter(Boolean).join(', ')
}
const checks = computed(() =>
  (found.value?.checks ?? []).filter((c) => c.before?.state !== c.after?.state || c.before?.shown !== c.after?.shown),
)
</script>

<template>
  <div class="whole-page">
    <PageHead>
      <template #where
        ><RouterLink :to="`/d/${id}?drawer=revisions`">{{ doc.view?.document.name ?? 'Document' }}</RouterLink
        ><span>/</span><b>Compare</b></template
      >
      <SideField :side="asked.before" label="before" v-bind="choices" @change="(s) => set('before', s)" />
      <button class="icon-btn" title="Swap the two" aria-label="Swap the two" @click="swap"><Icon name="swap" :size="16" /></button>
      <SideField :side="asked.after" label="after" v-bind="choices" @change="(s) => set('after', s)" />
      <span class="segmented" role="group">
        <button :class="{ on: !apart }" data-testid="compare-one" @click="apart = false">In one</button>
        <button :class="{ on: apart }" data-testid="compare-apart" @click="apart = true">Side by side</button>
      </span>
    </PageHead>
    <main>
      <div class="panes">
        <p v-if="busy" class="over muted">comparing …</p>
        <p v-else-if="trouble" class="over bad">{{ trouble }}</p>
        <p v-else-if="found && found.geometry === null" class="over muted">There is no shape to compare: what differs is at the right.</p>
        <p v-else-if="found?.geometry?.trouble" class="over bad">{{ found.geometry.trouble }}</p>
        <template v-if="apart">
          <ViewPane
            v-for="(pane, n) in panes"
            :key="n"
            class="pane"
            :bodies="pane"
            :styles="false"
            fixed
            wanted="none"
            :title="n ? 'After' : 'Before'"
            :keep-camera="n === 1"
            @ready="(e) => put(n, e)"
            @frame="link"
          />
        </template>
        <ViewPane v-else class="pane" :bodies="all" :styles="false" fixed wanted="none" title="Both" @ready="(e) => put(0, e)" />
      </div>
      <aside v-if="found" class="scroll" data-testid="compared">
        <table class="sums">
          <thead>
            <tr>
              <th />
              <th>{{ named(found.before) }}</th>
              <th>{{ named(found.after) }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-if="found.after.mass !== null">
              <td>Mass</td>
              <td class="num">{{ found.before.mass === null ? '·' : mass(found.before.mass) }}</td>
              <td class="num">
                {{ mass(found.after.mass) }}
                <span v-if="found.before.mass !== null && found.before.mass !== found.after.mass" class="muted">{{
                  change(found.after.mass - found.before.mass)
                }}</span>
              </td>
            </tr>
            <tr v-if="found.after.size || found.before.size">
              <td>Size</td>
              <td class="num">{{ sized(found.before) }}</td>
              <td class="num">{{ sized(found.after) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-for="f in [...found.before.faults, ...found.after.faults]" :key="f.name + f.why" class="bad">{{ f.name }}: {{ f.why }}</p>
        <div v-if="volumes.length" class="volumes" data-testid="volumes">
          <span v-for="v in volumes" :key="v.sign" class="num"><i :style="{ background: v.tone }" />{{ v.sign }} {{ v.text }}</span>
        </div>
        <section v-if="found.geometry?.rows.length">
          <h4>Material</h4>
          <ul>
            <li v-for="r in found.geometry.rows" :key="r.id">
              <b>{{ r.name }}</b> {{ WORDS[r.sign] }} <span class="muted num">{{ told(r) }}</span>
            </li>
          </ul>
        </section>
        <section v-if="checks.length">
          <h4>Checks</h4>
          <ul>
            <li v-for="c in checks" :key="c.id">
              <b>{{ c.name }}</b>
              <span v-for="(v, n) in [c.before, c.after]" :key="n" class="check num"
                ><template v-if="v"
                  ><span :class="tone(v.state, 'must')"><Icon :name="said(v.state).icon" :size="13" /></span> {{ foundOf(v) }}</template
                ><template v-else>not there</template></span
              >
            </li>
          </ul>
        </section>
        <DifferenceList :differences="found.differences" />
        <p v-if="!found.differences.length && !found.geometry?.rows.length" class="muted">Nothing differs.</p>
      </aside>
    </main>
  </div>
</template>

<style scoped>
select {
  width: 230px;
  min-width: 90px;
  flex: 0 1 230px;
}
main {
  flex: 1;
  min-height: 0;
  display: flex;
}
.panes {
  position: relative;
  flex: 1;
  min-width: 0;
  display: flex;
}
.pane {
  flex: 1;
  min-width: 0;
}
.pane + .pane {
  border-left: 1px solid var(--line-2);
}
.over {
  position: absolute;
  z-index: 3;
  left: 14px;
  bottom: 8px;
  margin: 0;
}
aside {
  width: 350px;
  flex: none;
  overflow: auto;
  padding: 12px 16px 24px;
  border-left: 1px solid var(--line);
  background: var(--panel);
}
.sums {
  width: 100%;
  border-collapse: collapse;
}
.sums th {
  font-weight: 600;
  font-size: 12px;
  color: var(--ink-2);
}
.sums th,
.sums td {
  text-align: left;
  padding: 3px 6px 3px 0;
  vertical-align: top;
}
.volumes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin-top: 8px;
}
.volumes i {
  display: inline-block;
  width: 11px;
  height: 11px;
  border-radius: 3px;
  margin-right: 5px;
  vertical-align: -1px;
}
h4 {
  margin: 12px 0 4px;
  font-size: 12px;
  color: var(--ink-3);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 2px 0;
}
.check {
  margin-left: 8px;
}
.check svg {
  vertical-align: -2px;
}
.bad {
  color: var(--bad);
}
</style>
