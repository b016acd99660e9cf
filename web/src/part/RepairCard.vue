<script setup lang="ts">
// A lost pick: what it last was, what it may stand for now, and taking one for all that went the
// same way. Resting on a candidate shows it in the picture; the ghost shows the old place.
import { onMounted, onUnmounted, ref } from 'vue'
import { call, type Report, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Why from '../help/Why.vue'
import Icon from '../ui/Icon.vue'
import type { StoredPick } from '../viewport/mesh'
import { useShown } from '../document/shown'

const props = defineProps<{ report: Report; step: string; stored: boolean }>()
/** In an open editor the pick goes into the field; elsewhere it is mended in the document. */
const emit = defineEmits<{ take: [pick: StoredPick] }>()
const doc = useDocument()
const shown = useShown()
const chosen = ref<number | null>(null)
const alike = ref<Schemas['Swap'][] | null>(null)
const lost = props.report.lost!

onMounted(async () => {
  const view = doc.view
  if (!view) return
  try {
    const found = await call('post', '/api/documents/{id}/ghost', {
      path: { id: view.id },
      body: { step: props.step, pick: lost.pick as Schemas['Pick'] },
    })
    shown.haunt(props.step, found.lines)
  } catch {
    shown.haunt(props.step, []) // the card works without: an old revision may need a file that is gone
  }
})
onUnmounted(() => {
  shown.haunt(props.step, [])
  shown.looked = []
})

const pickOf = (i: number): Schemas['Pick'] => lost.candidates![i].pick as Schemas['Pick']
async function choose(i: number): Promise<void> {
  if (!props.stored) return emit('take', pickOf(i) as unknown as StoredPick)
  chosen.value = i
  shown.looked = [pickOf(i) as unknown as StoredPick]
  alike.value = null
  try {
    const found = await call('post', '/api/documents/{id}/alike', {
      path: { id: doc.view!.id },
      body: { step: props.step, old: lost.pick as Schemas['Pick'], new: pickOf(i) },
    })
    alike.value = found.swaps
  } catch (error) {
    doc.refused(error)
  }
}
async function mend(all: boolean): Promise<void> {
  const i = chosen.value
  if (i === null) return
  const own = { step: props.step, old: lost.pick, new: pickOf(i), score: lost.candidates![i].score }
  await doc.edit([{ do: 'mend_picks', swaps: [own, ...(all ? (alike.value ?? []) : [])] }])
}
const words = (kind: string): string =>
  ({
    plane: 'flat face',
    freeform: 'free-form face',
    line: 'straight edge',
    circle: 'round edge',
    curve: 'curved edge',
    point: 'corner',
  })[kind] ?? `${kind} face`
function look(i: number | null): void {
  const at = i ?? chosen.value
  shown.looked = at === null ? [] : [pickOf(at) as unknown as StoredPick]
}
</script>

<template>
  <div class="repair" data-testid="repair" @click.stop>
    <p class="said">
      <Icon name="cross" :size="15" />
      <span
        >{{ report.text }} <Why :code="report.code" />.
        <em v-if="shown.ghosts[step]?.length">Dashed in the picture: where it was.</em></span
      >
    </p>
    <p v-if="!lost.candidates?.length" class="muted">Nothing that is there now is like it. Open the step and pick anew.</p>
    <div v-else class="list" role="listbox" aria-label="What it may stand for now" @mouseleave="look(null)">
      <button
        v-for="(c, i) in lost.candidates"
        :key="i"
        class="candidate"
        :class="{ on: chosen === i }"
        role="option"
        :aria-selected="chosen === i"
        :data-testid="`candidate-${i}`"
        @mouseenter="look(i)"
        @focus="look(i)"
        @click="choose(i)"
      >
        <span>{{ words(pickOf(i).witness?.kind ?? '') }}</span>
        <meter min="0" max="1" :value="c.score" /> <b>{{ Math.round(c.score * 100) }} %</b>
      </button>
    </div>
    <div v-if="chosen !== null" class="offers">
      <button v-if="alike?.length" class="btn small main" data-testid="mend-all" @click="mend(true)">
        Use it, and {{ alike.length }} alike
      </button>
      <button class="btn small" :class="{ main: alike && !alike.length }" data-testid="mend-one" @click="mend(false)">
        Use it here{{ alike?.length ? ' only' : '' }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.repair {
  grid-column: 1 / -1;
  margin: 4px 4px 2px 0;
  padding: 8px 10px;
  border-radius: 6px;
  background: var(--bad-soft);
  font-size: 12px;
  display: grid;
  gap: 6px;
  cursor: default;
}
.said {
  margin: 0;
  display: flex;
  gap: 8px;
  line-height: 1.35;
}
.said svg {
  flex: none;
  color: var(--bad);
  margin-top: 1px;
}
span::first-letter {
  text-transform: uppercase;
}
.said > span {
  display: block;
}
em {
  font-style: normal;
  color: var(--ink-2);
}
.list {
  display: grid;
  gap: 2px;
}
.candidate {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 25px;
  padding: 0 8px;
  border-radius: 5px;
  background: var(--panel);
  border: 1px solid var(--line);
  text-align: left;
}
.candidate span {
  flex: 1;
}
.candidate:hover,
.candidate:focus-visible {
  border-color: var(--hover);
}
.candidate.on {
  border-color: var(--pick);
  background: var(--pick-soft);
}
meter {
  width: 62px;
  height: 8px;
}
.offers {
  display: flex;
  gap: 6px;
}
p {
  margin: 0;
}
</style>
