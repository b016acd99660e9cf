<script setup lang="ts">
// All projects and their documents, with pictures made from the models.
import { NModal, useMessage } from 'naive-ui'
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { call, type Material, Refusal, type Schemas } from '../api/client'
import { listen } from '../api/events'
import { KINDS } from '../document/kinds'
import { useRegistries } from '../document/store'
import { useBringing } from '../exchange/bringing'
import StepTree from '../exchange/StepTree.vue'
import HelpPanel from '../help/HelpPanel.vue'
import KeySheet from '../help/KeySheet.vue'
import { useHelp } from '../help/store'
import { refuse } from '../help/toast'
import { useTour } from '../help/tour'
import MouseFields from '../settings/MouseFields.vue'
import { useHabits } from '../settings/store'
import UnitsFields from '../settings/UnitsFields.vue'
import PageHead from '../shell/PageHead.vue'
import Icon from '../ui/Icon.vue'
import { dark } from '../ui/theme'
import DocumentPicture from './DocumentPicture.vue'

type Project = Schemas['ProjectView']
type Line = Schemas['DocumentLine']

const router = useRouter()
const message = useMessage()
const projects = ref<Project[]>([])
const loaded = ref(false)
const asking = ref<{ what: 'project' } | { what: 'document'; project: Project; kind: Line['kind'] } | null>(null)
const name = ref('')
const habits = useHabits()
const materials = ref<Material[]>([])
const part = ref('')
/** The part a new one starts as a copy of; empty for none. */
const like = ref('')
const templates = computed(() =>
  projects.value.flatMap((p) => p.documents.filter((d) => d.template).map((d) => ({ id: d.id, name: `${d.name} · ${p.name}` }))),
)
const file = ref<HTMLInputElement | null>(null)
const zip = ref<HTMLInputElement | null>(null)
let target: Project | null = null
let stop: (() => void) | null = null

const registries = useRegistries()
/** Kinds of document, in the order they are offered. */
const kinds = computed(() => registries.found?.documents ?? [])
const wordOf = (kind: Line['kind']): string => kinds.value.find((k) => k.kind === kind)?.label ?? kind
const asksPart = (kind: Line['kind']): boolean => KINDS[kind].asks === 'part'

const help = useHelp()
const keys = ref(false)
function onKey(event: KeyboardEvent): void {
  if (event.key !== 'F1') return
  event.preventDefault()
  void help.show()
}
const tour = useTour()
const toured = ref(localStorage.getItem('toured') !== null)
/** The part of the demo the tour goes round in. */
const demo = computed(() => projects.value.flatMap((p) => p.documents).find((d) => d.name === 'Bearing block'))
async function takeTour(): Promise<void> {
  if (!demo.value) return
  tour.begin()
  await router.push(`/d/${demo.value.id}`)
}
function leaveTour(): void {
  tour.end()
  toured.value = true
}

async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work()
  } catch (error) {
    refuse(message, error instanceof Refusal ? error.report : { text: String(error), code: '' })
    return undefined
  }
}

async function load(): Promise<void> {
  const found = await attempt(() => call('get', '/api/shelf'))
  if (found) projects.value = found.projects
  loaded.value = true
}

onMounted(() => {
  document.title = 'Vireo'
  void load()
  void attempt(() => registries.load())
  stop = listen((news) => {
    if (news.kind === 'shelf' || news.kind === 'document' || news.kind === 'wake') void load()
  })
})
onMounted(() => window.addEventListener('keydown', onKey))
onUnmounted(() => {
  window.removeEventListener('keydown', onKey)
  stop?.()
})

function ask(what: NonNullable<typeof asking.value>): void {
  asking.value = what
  name.value = ''
  if (what.what === 'project' && !materials.value.length)
    void call('get', '/api/materials').then((found) => (materials.value = found.materials))
  like.value = ''
  part.value = what.what === 'document' ? (what.project.documents.find((d) => d.kind === 'part')?.id ?? '') : ''
}

async function make(): Promise<void> {
  const what = asking.value
  if (!what || !name.value.trim()) return
  if (what.what === 'project') {
    await attempt(() =>
      call('post', '/api/projects', {
        body: { name: name.value.trim(), defaults: { units: habits.units, material: habits.material } },
      }),
    )
    asking.value = null
    await load()
    return
  }
  const made = await attempt(() =>
    call('post', '/api/projects/{id}/documents', {
      path: { id: what.project.id },
      body: {
        kind: what.kind,
        name: name.value.trim(),
        part: asksPart(what.kind) ? part.value : null,
        like: KINDS[what.kind].asks === 'start' && like.value ? like.value : null,
      },
    }),
  )
  asking.value = null
  if (made) await router.push(`/d/${made.id}`)
}

async function remove(line: Line): Promise<void> {
  if (!confirm(`Delete ${line.name} with all its revisions?`)) return
  await attempt(() => call('delete', '/api/documents/{id}', { path: { id: line.id } }))
  await load()
}

async function removeProject(project: Project): Promise<void> {
  if (!confirm(`Delete the project ${project.name} with ${project.documents.length} documents?`)) return
  await attempt(() => call('delete', '/api/projects/{id}', { path: { id: project.id } }))
  await load()
}

async function send(url: string, chosen: File): Promise<{ id: string } | undefined> {
  return attempt(async () => {
    const response = await fetch(url, {
      method: 'POST',
      body: chosen,
      headers: { 'X-File-Name': encodeURIComponent(chosen.name) },
    })
    if (!response.ok) throw await (await import('../api/client')).refusalOf(response)
    return (await response.json()) as { id: string }
  })
}

const bringing = useBringing()
const SHAPES = '.step,.stp,.igs,.iges,.brep,.brp,.stl,.3mf'
async function importFile(event: Event): Promise<void> {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (!chosen || !target) return
  const into = target.id
  const made = await attempt(() => bringing.bring(into, chosen))
  if (made) await router.push(`/d/${made.id}`)
  ;(event.target as HTMLInputElement).value = ''
}

async function importZip(event: Event): Promise<void> {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (chosen) await send('/api/projects/archive', chosen)
  ;(event.target as HTMLInputElement).value = ''
  await load()
}

function pickFile(project: Project): void {
  target = project
  file.value?.click()
}
</script>

<template>
  <StepTree />
  <div class="whole-page">
    <PageHead>
      <button
        class="icon-btn"
        :title="dark ? 'Light theme' : 'Dark theme'"
        :aria-label="dark ? 'Light theme' : 'Dark theme'"
        @click="dark = !dark"
      >
        <Icon :name="dark ? 'sun' : 'moon'" />
      </button>
      <RouterLink to="/settings" class="icon-btn" title="Settings" aria-label="Settings" data-testid="settings-link"
        ><Icon name="settings"
      /></RouterLink>
      <button
        class="icon-btn"
        title="Help (F1)"
        aria-label="Help"
        data-testid="help-button"
        @click="help.shown ? (help.shown = false) : help.show()"
      >
        <Icon name="help" />
      </button>
      <button class="btn ghost" @click="zip?.click()"><Icon name="upload" :size="16" /> Bring in project</button>
      <button class="btn main" data-testid="new-project" @click="ask({ what: 'project' })"><Icon name="plus" :size="16" /> Project</button>
    </PageHead>
    <main class="scroll">
      <section v-if="loaded && !projects.length" class="empty">
        <h2>Nothing on the shelf yet</h2>
        <p>A project holds the parts, assemblies and studies that belong together. Start one, then draw its first part.</p>
        <button class="btn main" @click="ask({ what: 'project' })">Start a project</button>
      </section>
      <section v-if="demo && !toured" class="tour" data-testid="tour-offer">
        <span><b>New here?</b> A tour of three minutes on a bearing block of the coffee roaster.</span>
        <button class="btn main small" data-testid="take-tour" @click="takeTour">Take the tour</button>
        <button class="btn small" @click="leaveTour">Not now</button>
      </section>
      <section v-for="project in projects" :key="project.id" class="project">
        <div class="title">
          <h2>{{ project.name }}</h2>
          <span class="muted">{{ project.documents.length }} {{ project.documents.length === 1 ? 'document' : 'documents' }}</span>
          <span class="grow" />
          <button
            v-for="k in kinds"
            :key="k.kind"
            class="btn small"
            :disabled="asksPart(k.kind) && !project.documents.some((d) => d.kind === 'part')"
            :title="k.line"
            :data-testid="`new-${k.kind}`"
            @click="ask({ what: 'document', project, kind: k.kind })"
          >
            <Icon :name="k.icon" :size="15" /> {{ k.label }}
          </button>
          <RouterLink class="btn small link" :to="`/p/${project.id}/checks`" data-testid="shelf-checks"
            ><Icon name="check" :size="15" /> Checks</RouterLink
          >
          <button class="btn small" @click="pickFile(project)"><Icon name="import" :size="15" /> From a file</button>
          <a class="btn small link" :href="`/api/projects/${project.id}/archive`" download><Icon name="download" :size="15" /> Zip</a>
          <button class="icon-btn" title="Delete project" aria-label="Delete project" @click="removeProject(project)">
            <Icon name="bin" :size="16" />
          </button>
        </div>
        <div class="cards">
          <RouterLink v-for="line in project.documents" :key="line.id" :to="`/d/${line.id}`" class="card" data-testid="document-card">
            <DocumentPicture :id="line.id" :kind="line.kind" :revision="line.revision" />
            <span class="line">
              <Icon :name="line.kind" :size="16" />
              <b>{{ line.name }}</b>
              <button class="icon-btn bin" title="Delete" aria-label="Delete document" @click.prevent.stop="remove(line)">
                <Icon name="bin" :size="15" />
              </button>
            </span>
            <span class="muted small">{{ line.template ? 'Start for new parts' : wordOf(line.kind) }} · revision {{ line.revision }}</span>
          </RouterLink>
          <p v-if="!project.documents.length" class="muted none">Empty. Begin with a part: a sketch, then grow it.</p>
        </div>
      </section>
    </main>
    <HelpPanel :tours="demo !== undefined" @keys="keys = true" @tour="takeTour" />
    <KeySheet v-model:show="keys" />
    <input ref="file" type="file" :accept="SHAPES" hidden @change="importFile" />
    <input ref="zip" type="file" accept=".zip" hidden @change="importZip" />
    <NModal
      :show="asking !== null"
      preset="card"
      :title="asking?.what === 'project' ? 'New project' : `New ${asking?.kind}`"
      style="width: 400px"
      @update:show="(v: boolean) => !v && (asking = null)"
    >
      <form class="ask" @submit.prevent="make">
        <label>Name <input v-model="name" class="field" data-testid="name-field" autofocus maxlength="80" /></label>
        <template v-if="asking?.what === 'project'">
          <div class="habits"><b>Units</b><UnitsFields v-model="habits.units" fold /></div>
          <label
            >Material
            <select v-model="habits.material" class="field" data-testid="project-material">
              <option v-for="m in materials" :key="m.id" :value="m.id">{{ m.name }}</option>
            </select></label
          >
          <div class="habits"><b>Mouse</b><MouseFields /></div>
          <div class="habits">
            <b>Theme</b
            ><span class="segmented" role="group"
              ><button type="button" :class="{ on: !dark }" @click="dark = false">Light</button
              ><button type="button" :class="{ on: dark }" @click="dark = true">Dark</button></span
            >
          </div>
          <p class="muted small">Remembered here; all of it can be changed in the settings.</p>
        </template>
        <label v-if="asking?.what === 'document' && asksPart(asking.kind)">
          Part
          <select v-model="part" class="field">
            <option v-for="d in asking.project.documents.filter((d) => d.kind === 'part')" :key="d.id" :value="d.id">
              {{ d.name }}
            </option>
          </select>
        </label>
        <label v-if="asking?.what === 'document' && KINDS[asking.kind].asks === 'start' && templates.length">
          Start from
          <select v-model="like" class="field" data-testid="start-from">
            <option value="">nothing</option>
            <option v-for="t in templates" :key="t.id" :value="t.id">{{ t.name }}</option>
          </select>
        </label>
        <div class="actions">
          <button type="button" class="btn" @click="asking = null">Cancel</button>
          <button class="btn main" :disabled="!name.trim()" data-testid="make">Make it</button>
        </div>
      </form>
    </NModal>
  </div>
</template>

<style scoped>
.habits {
  display: grid;
  gap: 6px;
}
.habits > .segmented {
  justify-self: start;
}
.habits b {
  font-weight: 600;
  color: var(--ink-2);
}
.grow {
  flex: 1;
}
main {
  flex: 1;
  padding: 22px 28px 40px;
}
.tour {
  max-width: 1240px;
  margin: 0 auto 18px;
  padding: 9px 14px;
  display: flex;
  gap: 10px;
  align-items: center;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 10px;
}
.tour span {
  flex: 1;
}
.project {
  max-width: 1240px;
  margin: 0 auto 30px;
}
.title {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 12px;
}
.title h2 {
  font-size: 17px;
}
.link {
  text-decoration: none;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(210px, 1fr));
  gap: 14px;
}
.card {
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 10px 12px;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--panel);
  text-decoration: none;
  color: inherit;
}
.card:hover {
  border-color: var(--accent);
  box-shadow: var(--shadow);
}
.line {
  display: flex;
  align-items: center;
  gap: 7px;
  min-width: 0;
}
.line b {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  flex: 1;
}
.bin {
  opacity: 0;
}
.card:hover .bin,
.bin:focus-visible {
  opacity: 1;
}
.small {
  font-size: 12px;
}
.none {
  grid-column: 1 / -1;
  margin: 4px 0;
}
.empty {
  max-width: 460px;
  margin: 12vh auto 0;
  text-align: center;
}
.empty h2 {
  font-size: 19px;
  margin-bottom: 8px;
}
.empty .btn {
  margin-top: 8px;
}
.ask {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.ask label {
  display: grid;
  gap: 4px;
  color: var(--ink-2);
}
.actions {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
