<script setup lang="ts">
// Projection, views to go to, views kept by name, and the picture as a file.
import { computed, ref } from 'vue'
import { NPopover } from 'naive-ui'
import type { Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { useShown } from '../document/shown'
import { useHabits } from '../settings/store'
import { saveBlob } from '../ui/files'
import Icon from '../ui/Icon.vue'
import type { Engine } from './engine'
import type { LookState } from './look'
import type { Triple } from './mesh'
import { sizeTrouble } from './picture'
import type { Cut } from './sections'
import { STYLES } from './styles'

type SavedView = Schemas['SavedView']

const props = defineProps<{
  engine: Engine
  look: LookState
  face: { normal: Triple; at: Triple } | null
  tick: number
  keeps: boolean
  ofOther: SavedView[] | null
}>()
const emit = defineEmits<{ 'face-on': []; hide: [ids: string[]] }>()
const cut = defineModel<Cut | null>('cut', { required: true })
const doc = useDocument()
const shown = useShown()
const habits = useHabits()
const open = ref(false)
const name = ref('')
const trouble = ref('')
const size = ref({ width: 1920, height: 1080 })
const saving = ref(false)
const SIZES: [string, number, number][] = [
  ['Screen', 1920, 1080],
  ['A4 at 300', 3508, 2480],
  ['Square', 2048, 2048],
]

const views = computed<SavedView[]>(() => {
  if (props.ofOther) return props.ofOther
  const d = doc.view?.document
  return props.keeps && d && 'views' in d ? (d.views ?? []) : []
})
const perspective = computed({
  get: () => (void props.tick, props.engine.camera.perspective),
  set: (on: boolean) => props.engine.setPerspective(on),
})
const canGoBack = computed(() => (void props.tick, void open.value, props.engine.camera.hasPrevious))

async function keep(): Promise<void> {
  const given = name.value.trim()
  if (!given) return
  const { from, up, target, height } = props.engine.camera.stand()
  const { style, way, thresholds } = props.look
  const view: SavedView = {
    name: given,
    eye: from,
    up,
    target,
    height,
    perspective: props.engine.camera.perspective,
    style: style.value,
    way: way.value,
    threshold: thresholds.value[style.value] ?? null,
    cut: cut.value,
    hidden: [...shown.hidden],
    ghosts: [...shown.faint],
    colours: shown.colours,
  }
  if (await doc.edit([{ do: 'keep_view', view }])) name.value = ''
}
function go(view: SavedView): void {
  open.value = false
  props.engine.camera.go({
    from: view.eye as Triple,
    up: view.up as Triple,
    target: view.target as Triple,
    height: view.height,
    perspective: view.perspective ?? false,
  })
  const row = STYLES.find((r) => r.style === view.style) ?? STYLES[0]
  props.look.take(row.style, view.way ?? '+Z', view.threshold ?? null)
  cut.value = (view.cut ?? null) as Cut | null
  if (props.ofOther) emit('hide', view.hidden ?? [])
  else {
    shown.hidden = new Set(view.hidden ?? [])
    shown.faint = new Set(view.ghosts ?? [])
    shown.colours = view.colours ?? 'component'
  }
}
async function picture(): Promise<void> {
  const { width, height } = size.value
  trouble.value = sizeTrouble(width, height) ?? ''
  if (trouble.value) return
  saving.value = true
  try {
    saveBlob(await props.engine.picture(width, height), `${doc.view?.document.name ?? 'view'}.png`)
    open.value = false
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  } finally {
    saving.value = false
  }
}
</script>

<template>
  <NPopover v-model:show="open" trigger="click" placement="bottom-end" style="padding: 12px; width: 268px">
    <template #trigger>
      <button class="chip" data-testid="view-menu" title="Projection, named views, picture">View <Icon name="down" :size="13" /></button>
    </template>
    <div class="menu" data-testid="view-card" @keydown.stop>
      <span class="segmented">
        <button :class="{ on: !perspective }" @click="perspective = false">Parallel</button>
        <button :class="{ on: perspective }" data-testid="perspective" @click="perspective = true">Perspective</button>
      </span>
      <label class="row"><input v-model="habits.shading" type="checkbox" data-testid="view-shading" /> Soft shadows</label>
      <div class="row">
        <button
          class="btn small"
          :disabled="!face"
          :title="face ? '' : 'Pick a flat face first'"
          @click="(emit('face-on'), (open = false))"
        >
          Look at face
        </button>
        <button class="btn small" :disabled="!canGoBack" data-testid="previous-view" @click="(engine.camera.previous(), (open = false))">
          Previous
        </button>
        <button class="btn small" @click="(engine.fit(), (open = false))">Fit</button>
      </div>
      <template v-if="keeps || ofOther?.length">
        <h3>Named views</h3>
        <p v-if="!views.length" class="muted">None yet. A view keeps where you look from, the style, the section and what is shown.</p>
        <ul v-else>
          <li v-for="v in views" :key="v.name">
            <button class="go" :data-testid="`go-view-${v.name}`" @click="go(v)">
              <Icon name="eye" :size="14" /> {{ v.name }} <small v-if="v.cut" class="muted">cut</small>
            </button>
            <button
              v-if="keeps"
              class="icon-btn"
              :aria-label="`Delete ${v.name}`"
              title="Delete"
              @click="doc.edit([{ do: 'remove_view', name: v.name }])"
            >
              <Icon name="bin" :size="13" />
            </button>
          </li>
        </ul>
        <form v-if="keeps" class="row" @submit.prevent="keep">
          <input
            v-model="name"
            class="field"
            maxlength="40"
            placeholder="Name of this view"
            aria-label="Name of this view"
            data-testid="view-name"
          />
          <button class="btn small" :disabled="!name.trim()" data-testid="keep-view">Keep</button>
        </form>
      </template>
      <h3>Picture</h3>
      <div class="row sizes">
        <button
          v-for="[word, w, h] in SIZES"
          :key="word"
          class="chip"
          :class="{ on: size.width === w && size.height === h }"
          @click="size = { width: w, height: h }"
        >
          {{ word }}
        </button>
      </div>
      <form class="row" @submit.prevent="picture">
        <input v-model.number="size.width" class="field px" aria-label="Width in pixels" data-testid="picture-width" /> ×
        <input v-model.number="size.height" class="field px" aria-label="Height in pixels" />
        <button class="btn small" :disabled="saving" data-testid="save-picture">{{ saving ? 'Drawing …' : 'Save PNG' }}</button>
      </form>
      <p v-if="trouble" class="trouble" data-testid="picture-trouble">{{ trouble }}</p>
    </div>
  </NPopover>
</template>

<style scoped>
.menu {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.row {
  display: flex;
  gap: 6px;
  align-items: center;
}
h3 {
  margin: 6px 0 0;
  font-size: 12px;
  color: var(--ink-2);
}
p {
  margin: 0;
  line-height: 1.4;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 190px;
  overflow: auto;
}
li {
  display: flex;
}
.go {
  flex: 1;
  display: flex;
  gap: 6px;
  align-items: center;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  padding: 4px 2px;
  cursor: pointer;
  text-align: left;
}
.go:hover {
  color: var(--accent);
}
.row .field {
  flex: 1;
  min-width: 0;
}
.row .px {
  width: 62px;
  flex: none;
}
</style>
