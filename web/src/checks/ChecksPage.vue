<script setup lang="ts">
// All checks of a project: what each says of its document as it stands; what fails first.
import { useMessage } from 'naive-ui'
import { computed, onMounted, onUnmounted, ref, shallowRef } from 'vue'
import { call, Refusal, type Schemas } from '../api/client'
import { listen } from '../api/events'
import { turns } from '../api/newest'
import { refuse } from '../help/toast'
import PageHead from '../shell/PageHead.vue'
import { raised } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { foundOf, said, sign, tone } from './words'

const props = defineProps<{ id: string }>()
const message = useMessage()
const found = shallowRef<Schemas['ProjectChecksView'] | null>(null)
type Show = 'all' | 'wrong' | 'open'
const show = ref<Show>('all')
const turn = turns()
let stop: (() => void) | null = null
let waiting = 0

async function load(): Promise<void> {
  const newest = turn()
  try {
    const answer = await call('get', '/api/projects/{id}/checks', { path: { id: props.id } })
    if (newest()) found.value = answer
    document.title = `Checks of ${answer.name} · Vireo`
  } catch (error) {
    if (newest()) refuse(message, error instanceof Refusal ? error.report : { text: String(error), code: '' })
  }
}
/** News come in flocks: looked at once they have passed. */
function soon(): void {
  window.clearTimeout(waiting)
  waiting = window.setTimeout(() => void load(), 150)
}
onMounted(() => {
  void load()
  stop = listen((news) => {
    if (['checks', 'document', 'job', 'wake', 'shelf'].includes(news.kind)) soon()
  })
})
onUnmounted(() => {
  window.clearTimeout(waiting)
  stop?.()
})

type Row = Schemas['ProjectCheckView']
const wrong = (c: Row): boolean => c.state === 'fails' || c.state === 'trouble'
const open = (c: Row): boolean => c.state === 'old' || c.state === 'running'
const rank = (c: Row): number => (wrong(c) ? (c.severity === 'must' ? 0 : 1) : open(c) ? 2 : 3)
const all = computed(() => found.value?.documents.flatMap((d) => d.checks) ?? [])
const counts = computed(() => ({
  all: all.value.length,
  wrong: all.value.filter(wrong).length,
  open: all.value.filter(open).length,
}))
const documents = computed(() =>
  (found.value?.documents ?? [])
    .map((d) => ({
      ...d,
      checks: d.checks
        .filter((c) => show.value === 'all' || (show.value === 'wrong' ? wrong(c) : open(c)))
        .sort((a, b) => rank(a) - rank(b)),
    }))
    .filter((d) => d.checks.length)
    .sort((a, b) => Math.min(...a.checks.map(rank)) - Math.min(...b.checks.map(rank))),
)
const CHOICES: { key: Show; label: string }[] = [
  { key: 'all', label: 'All' },
  { key: 'wrong', label: 'Failing' },
  { key: 'open', label: 'Out of date' },
]
</script>

<template>
  <div class="whole-page">
    <PageHead>
      <template #where
        ><RouterLink to="/">{{ found?.name ?? 'Shelf' }}</RouterLink
        ><span>/</span><b>Checks</b></template
      >
      <RouterLink to="/" class="btn ghost">To the shelf</RouterLink>
    </PageHead>
    <main class="scroll" data-testid="project-checks">
      <div class="title">
        <h1>Checks</h1>
        <span class="segmented" role="group">
          <button v-for="c in CHOICES" :key="c.key" :class="{ on: show === c.key }" :data-testid="`show-${c.key}`" @click="show = c.key">
            {{ c.label }} <b class="num">{{ counts[c.key] }}</b>
          </button>
        </span>
      </div>
      <p v-if="found && !all.length" class="muted">
        No document of this project has a check yet: open one, and add what must hold in its Checks tab.
      </p>
      <p v-else-if="found && !documents.length" class="muted">{{ show === 'wrong' ? 'Nothing fails.' : 'Everything is up to date.' }}</p>
      <section v-for="d in documents" :key="d.document" :data-testid="`checks-of-${d.document}`">
        <h2>
          <Icon :name="d.kind" :size="16" /><RouterLink :to="`/d/${d.document}?drawer=checks`">{{ d.name }}</RouterLink>
          <span class="muted">{{ d.member ? `${d.member} · ` : '' }}revision {{ d.revision }}</span>
        </h2>
        <table class="grid">
          <tbody>
            <tr v-for="c in d.checks" :key="c.id">
              <td class="state" :class="tone(c.state, c.severity)">
                <Icon :name="said(c.state).icon" :size="15" /> {{ said(c.state).word }}
              </td>
              <td>
                {{ c.name }} <span class="muted">· {{ c.label }}{{ c.severity === 'should' ? ' · should hold' : '' }}</span>
                <span v-if="c.trouble" class="bad">{{ c.trouble.text }}</span>
                <span v-else-if="c.note" class="muted note">{{ c.note }}</span>
              </td>
              <td class="r num">{{ foundOf(c) }}</td>
              <td class="num">{{ sign(c.relation) }} {{ c.limit ?? raised(c.typed) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </main>
  </div>
</template>

<style scoped>
main {
  flex: 1;
  overflow: auto;
  padding: 18px 24px 40px;
}
main > * {
  max-width: 980px;
  margin-inline: auto;
}
.title {
  display: flex;
  align-items: center;
  gap: 18px;
}
h1 {
  font-size: 20px;
  margin: 6px 0;
}
section {
  margin-top: 20px;
}
h2 {
  display: flex;
  align-items: center;
  gap: 8px;
  font-size: 15px;
  margin: 0 0 6px;
}
h2 a {
  color: var(--ink);
  text-decoration: none;
}
h2 a:hover {
  text-decoration: underline;
}
h2 .muted {
  font-weight: 400;
  font-size: 12.5px;
}
.grid {
  width: 100%;
  table-layout: fixed;
}
td:nth-child(1) {
  width: 130px;
}
td:nth-child(3) {
  width: 150px;
}
td:nth-child(4) {
  width: 150px;
}
.state svg {
  vertical-align: -3px;
}
.r {
  text-align: right;
}
.bad,
.note {
  display: block;
  font-size: 12px;
}
.bad {
  color: var(--bad);
}
</style>
