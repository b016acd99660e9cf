<script setup lang="ts">
// A share copy for outsiders: rules, each component with what is shown of it, the file.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import EditCard from './EditCard.vue'
import TroubleNote from '../ui/TroubleNote.vue'
import { makerOf } from './copyNames'
import { type Level, LEVELS, type Rule, useSharing } from './sharing'
import { useAssembly } from './store'

const sharing = useSharing()
const doc = useDocument()
const asm = useAssembly()
const WORDS: Record<Rule['by'], string> = { name: 'named', property: 'property', pick: 'chosen' }
const text = (event: Event): string => (event.target as HTMLInputElement).value
const level = (event: Event): Level => text(event) as Level
/** Components, not their copies: these show what their original does. */
const rows = computed(() => (sharing.found?.rows ?? []).filter((r) => !makerOf(r.component)))
const chosen = computed(() => asm.selected.filter((id) => !makerOf(id)))
const names = (rule: Rule): string =>
  (rule.components ?? []).map((id) => doc.assembly?.components?.find((c) => c.id === id)?.name ?? id).join(', ')
function pickChosen(): void {
  if (!chosen.value.length) return doc.say('Choose components first, in the picture or in the tree', 'bad')
  sharing.addRule({ by: 'pick', what: '', components: chosen.value, level: 'box' })
}
const kept = computed(() => doc.assembly?.shares ?? [])
</script>

<template>
  <EditCard testid="share-panel" @leave="sharing.close()">
    <header>
      <Icon name="upload" :size="16" /> <b>Share copy</b>
      <span v-if="sharing.trying" class="muted">…</span>
      <span class="grow" />
      <select
        v-if="kept.length"
        class="field"
        value=""
        aria-label="Kept share copies"
        data-testid="share-kept"
        @change="sharing.take(text($event))"
      >
        <option value="" disabled>kept …</option>
        <option v-for="s in kept" :key="s.id" :value="s.id">{{ s.name }}</option>
      </select>
    </header>
    <div class="row">
      <label for="share-name">Name</label>
      <input id="share-name" v-model="sharing.name" class="field" maxlength="80" data-testid="share-name" @keydown.stop />
    </div>
    <div class="row">
      <label for="share-level">Everything</label>
      <select
        id="share-level"
        class="field"
        :value="sharing.wish.level"
        data-testid="share-level"
        @change="sharing.change({ level: level($event) })"
      >
        <option v-for="l in LEVELS" :key="l.level" :value="l.level">{{ l.word }}</option>
      </select>
    </div>
    <div v-for="(rule, n) in sharing.wish.rules" :key="n" class="rule" :data-testid="`share-rule-${n}`">
      <span class="muted">{{ WORDS[rule.by] }}</span>
      <input
        v-if="rule.by !== 'pick'"
        class="field"
        :value="rule.what"
        :placeholder="rule.by === 'name' ? 'bearing *' : 'supplier = *'"
        :aria-label="rule.by === 'name' ? 'Name, * for anything' : 'Property = value, * for anything'"
        :data-testid="`share-what-${n}`"
        @change="sharing.setRule(n, { what: text($event) })"
        @keydown.stop
      />
      <span v-else class="who" :title="names(rule)">{{ names(rule) }}</span>
      <select
        class="field"
        :value="rule.level"
        aria-label="What is shown"
        :data-testid="`share-as-${n}`"
        @change="sharing.setRule(n, { level: level($event) })"
      >
        <option v-for="l in LEVELS" :key="l.level" :value="l.level">{{ l.word }}</option>
      </select>
      <button class="icon-btn" aria-label="Drop this rule" title="Drop this rule" @click="sharing.dropRule(n)">
        <Icon name="close" :size="13" />
      </button>
    </div>
    <div class="add">
      <span class="muted">but</span>
      <button class="chip" data-testid="share-by-name" @click="sharing.addRule({ by: 'name', what: '', components: [], level: 'box' })">
        by name
      </button>
      <button
        class="chip"
        data-testid="share-by-property"
        @click="sharing.addRule({ by: 'property', what: '', components: [], level: 'out' })"
      >
        by property
      </button>
      <button class="chip" data-testid="share-chosen" @click="pickChosen">
        {{ chosen.length ? `${chosen.length} chosen` : 'chosen' }}
      </button>
    </div>
    <div class="row">
      <label for="share-small">Close holes up to, mm</label>
      <input
        id="share-small"
        class="field n"
        type="number"
        min="0"
        step="any"
        :value="sharing.wish.small"
        data-testid="share-small"
        @change="sharing.change({ small: Math.max(0, Number(text($event)) || 0) })"
        @keydown.stop
      />
    </div>
    <div class="row">
      <label for="share-looks">Keep colours</label>
      <input
        id="share-looks"
        type="checkbox"
        :checked="sharing.wish.looks"
        data-testid="share-looks"
        @change="sharing.change({ looks: ($event.target as HTMLInputElement).checked })"
      />
    </div>
    <div v-if="rows.length" class="list scroll" data-testid="share-rows">
      <div v-for="r in rows" :key="r.component" class="one" :data-testid="`share-${r.component}`">
        <span class="who" :title="r.name">{{ r.name }}</span>
        <span v-if="r.hidden" class="muted">nobody sees it</span>
        <span v-else-if="r.left" class="bad" title="Inner faces that could not be closed: a box hides them">{{ r.left }} inner left</span>
        <span v-else-if="r.level === 'skin' && r.after < r.before" class="muted">{{ r.before }} → {{ r.after }} faces</span>
        <select
          class="field"
          :value="r.level"
          :aria-label="`What is shown of ${r.name}`"
          :data-testid="`share-of-${r.component}`"
          @change="sharing.byHand(r.component, level($event))"
        >
          <option v-for="l in LEVELS" :key="l.level" :value="l.level">{{ l.word }}</option>
        </select>
      </div>
    </div>
    <TroubleNote v-if="sharing.trouble" :report="sharing.trouble" />
    <footer>
      <button class="btn" @click="sharing.close()">Done</button>
      <button class="btn" data-testid="keep-share" :disabled="!sharing.name.trim()" @click="sharing.kept()">Keep</button>
      <button
        class="btn main"
        data-testid="write-share"
        :disabled="!sharing.name.trim() || sharing.writing || !sharing.found"
        @click="sharing.write()"
      >
        {{ sharing.writing ? 'Writing …' : 'Write STEP' }}
      </button>
    </footer>
  </EditCard>
</template>

<style scoped>
.grow {
  flex: 1;
}
.row > .field:not(.n),
.row > select {
  width: 150px;
}
.n {
  width: 70px;
}
.rule,
.one,
.add {
  display: flex;
  align-items: center;
  gap: 6px;
  font-size: 12.5px;
}
.rule .field:not(select) {
  flex: 1;
  min-width: 0;
}
.rule select,
.one select {
  width: 106px;
  flex: none;
}
.who {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.list {
  max-height: 230px;
  overflow-y: auto;
  border-top: 1px solid var(--line);
  padding-top: 5px;
}
.one {
  padding: 2px 0;
}
.one .muted,
.one .bad {
  font-size: 11.5px;
}
.bad {
  color: var(--bad);
}
</style>
