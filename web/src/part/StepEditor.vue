<script setup lang="ts">
// The open card: fields from the kind's declaration, live preview, Keep or Discard.
import { computed, ref } from 'vue'
import { useDocument } from '../document/store'
import { change, mass } from '../ui/format'
import { useHelp } from '../help/store'
import FollowLine from '../revisions/FollowLine.vue'
import Icon from '../ui/Icon.vue'
import { useInSight } from '../ui/inSight'
import TroubleNote from '../ui/TroubleNote.vue'
import { useEdited } from './edited'
import { fieldComponent } from './fields/types'
import RepairCard from './RepairCard.vue'

defineProps<{ number: number }>()
const edited = useEdited()
const help = useHelp()
const doc = useDocument()

const fields = computed(() => edited.shownFields.filter((f) => f.label))
const card = ref<HTMLElement | null>(null)
useInSight(card)
</script>

<template>
  <article ref="card" class="editor edit-card" data-testid="editor" @keydown.enter.exact="edited.keep()" @keydown.esc="edited.discard()">
    <header>
      <span class="n">{{ number }}</span>
      <Icon :name="edited.kind?.icon ?? 'box'" :size="17" />
      <input
        v-model="edited.name"
        class="name"
        :placeholder="edited.kind?.label"
        aria-label="Name of the step"
        title="Its name: type to change it"
        maxlength="80"
        spellcheck="false"
        data-testid="step-name"
      />
      <span v-if="edited.trying" class="muted">…</span>
      <span v-else-if="edited.report && edited.report.status === 'ok'" class="muted" data-testid="trial-mass"
        >{{ mass(edited.report.mass) }} <i :class="{ less: edited.report.change <= -0.0005 }">{{ change(edited.report.change) }}</i></span
      >
      <button
        class="icon-btn"
        title="What this step does (F1)"
        aria-label="Help on this step"
        data-testid="step-help"
        @click="help.show(`step:${edited.kindName}`)"
      >
        <Icon name="help" :size="15" />
      </button>
    </header>
    <component :is="fieldComponent(f.type)" v-for="f in fields" :key="f.name" :field="f" />
    <p v-if="edited.missing" class="hint"><Icon name="hand" :size="15" /> {{ edited.missing }}</p>
    <RepairCard
      v-if="edited.error?.lost && !edited.missing"
      :key="JSON.stringify(edited.error.lost.pick)"
      :report="edited.error"
      :step="edited.id ?? ''"
      :stored="false"
      @take="(p) => edited.replace(edited.error!.lost!.pick, p)"
    />
    <TroubleNote v-else-if="edited.error && !edited.missing" :report="edited.error" @take="edited.take" />
    <p v-for="note in edited.report?.notes ?? []" :key="note.text" class="hint"><Icon name="alert" :size="14" /> {{ note.text }}</p>
    <FollowLine />
    <footer>
      <span class="grow" />
      <button class="btn" data-testid="discard" @click="edited.discard()">Discard</button>
      <button class="btn main" data-testid="keep" :disabled="Boolean(edited.missing) || doc.saving" @click="edited.keep()">Keep</button>
    </footer>
  </article>
</template>

<style scoped>
.editor {
  padding: 8px 10px 10px;
  display: flex;
  flex-direction: column;
  gap: 7px;
  margin: 6px 0;
  scroll-margin: 8px;
}
header {
  display: flex;
  align-items: center;
  gap: 8px;
  padding-bottom: 6px;
  border-bottom: 1px solid var(--line);
}
header .name {
  flex: 1;
  min-width: 0;
  font: inherit;
  font-weight: 600;
  color: var(--ink);
  background: none;
  border: 1px solid transparent;
  border-radius: 5px;
  padding: 1px 4px;
  margin-left: -4px;
}
header .name::placeholder {
  color: var(--ink);
  opacity: 1;
}
header .name:hover {
  border-color: var(--line-2);
}
header .name:focus {
  border-color: var(--accent);
  outline: none;
  background: var(--panel-2);
}
header .name:focus::placeholder {
  color: var(--ink-3);
}
header i {
  font-style: normal;
  color: var(--up);
  margin-left: 4px;
}
header i.less {
  color: var(--down);
}
.n {
  color: var(--ink-3);
  font-size: 12px;
}
footer {
  display: flex;
  gap: 8px;
  position: sticky;
  bottom: 0;
  background: var(--panel);
  padding: 5px 0 2px;
}
.grow {
  flex: 1;
}
</style>
