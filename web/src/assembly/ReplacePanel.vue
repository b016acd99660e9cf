<script setup lang="ts">
// What a component is replaced by, what of its joints is found again there, and how surely.
import { computed, ref } from 'vue'
import type { Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import { useInSight } from '../ui/inSight'
import TroubleNote from '../ui/TroubleNote.vue'
import DocumentList from './DocumentList.vue'
import { useReplacing } from './replacing'

const replacing = useReplacing()
const doc = useDocument()
const name = computed(() => doc.assembly?.components?.find((c) => c.id === replacing.component)?.name ?? '')
type Found = Schemas['FoundEndView']
function words(e: Found): string {
  if (e.how === 'port') return 'by its port'
  if (e.how === 'name') return e.score < 0.5 ? `by name, ${Math.round(100 * e.score)} % alike` : 'by name'
  if (e.how === 'likeness') return `${Math.round(100 * e.score)} % alike`
  return e.score ? `mend, nearest ${Math.round(100 * e.score)} %` : 'to be mended'
}
const lost = computed(() => replacing.found?.ends.filter((e) => e.how === 'lost').length ?? 0)
const card = ref<HTMLElement | null>(null)
useInSight(card)
</script>

<template>
  <section ref="card" class="tool-card edit-card" data-testid="replace-panel" @keydown.esc.stop="replacing.discard()">
    <header>
      <b>Replace {{ name }} by</b><span v-if="replacing.trying" class="muted">…</span>
    </header>
    <DocumentList :documents="replacing.documents" verb="Replace by" :chosen="replacing.chosen" @choose="(d) => replacing.choose(d.id)" />
    <ul v-if="replacing.found" class="ends" data-testid="replace-ends">
      <li v-for="(e, n) in replacing.found.ends" :key="n" :class="e.how">
        <Icon :name="e.how === 'lost' ? 'alert' : 'check'" :size="14" />
        <span>{{ e.title }}</span>
        <span class="muted">{{ words(e) }}</span>
      </li>
      <li v-if="!replacing.found.ends.length" class="muted">Nothing holds it.</li>
    </ul>
    <p v-if="lost" class="muted small">What is to be mended asks for it at its joint, with what is most alike.</p>
    <TroubleNote v-if="replacing.trouble" :report="replacing.trouble" />
    <footer>
      <button class="btn" @click="replacing.discard()">Discard</button>
      <button class="btn main" data-testid="keep-replace" :disabled="!replacing.found" @click="replacing.keep()">Replace</button>
    </footer>
  </section>
</template>

<style scoped>
.ends {
  list-style: none;
  margin: 4px 0;
  padding: 0;
  font-size: 12.5px;
}
.ends li {
  display: flex;
  gap: 7px;
  align-items: center;
  padding: 3px 2px;
}
.ends li span:nth-of-type(1) {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.ends .lost {
  color: var(--bad);
}
.small {
  font-size: 12px;
  margin: 0 0 6px;
}
</style>
