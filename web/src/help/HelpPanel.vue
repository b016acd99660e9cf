<script setup lang="ts">
// The help at the right of everything: search, pages by group, one page with its picture.
import { computed, nextTick, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import Icon from '../ui/Icon.vue'
import SidePanel from '../ui/SidePanel.vue'
import { useHelp } from './store'

withDefaults(defineProps<{ tours?: boolean }>(), { tours: true })
const emit = defineEmits<{ keys: []; tour: [] }>()
const help = useHelp()
const field = ref<HTMLInputElement | null>(null)
const groups = computed(() => {
  const by = new Map<string, Schemas['HelpPage'][]>()
  for (const p of help.found) by.set(p.group, [...(by.get(p.group) ?? []), p])
  // What is looked for comes as one list, the best first.
  return help.wanted.trim() ? [['Found', help.found] as const] : [...by]
})
watch(
  () => help.shown,
  async (on) => {
    await nextTick()
    if (on && !help.open) field.value?.focus()
  },
)
function key(event: KeyboardEvent): void {
  if (event.key === 'Enter' && help.found.length) help.open = help.found[0].id
}
</script>

<template>
  <SidePanel v-if="help.shown" title="Help" testid="help" @shut="help.shown = false" @keydown="key">
    <template #head>
      <button class="btn small" data-testid="help-keys" @click="emit('keys')">Keys</button>
      <button v-if="tours" class="btn small" data-testid="begin-tour" @click="((help.shown = false), emit('tour'))">Tour</button>
    </template>
    <label class="find"
      ><Icon name="search" :size="14" /><input
        ref="field"
        v-model="help.wanted"
        class="field"
        placeholder="Search: fillet, thin wall, lost pick …"
        aria-label="Search the help"
        data-testid="help-search"
        @input="help.open = null"
    /></label>
    <p v-if="help.trouble" class="trouble">{{ help.trouble }}</p>
    <article v-if="help.page" class="scroll" data-testid="help-page">
      <button class="back" @click="help.open = null"><Icon name="right" :size="13" class="left" /> All pages</button>
      <small class="muted">{{ help.page.group }}</small>
      <h2>{{ help.page.title }}</h2>
      <p>{{ help.page.line }}</p>
      <img
        v-if="help.page.picture"
        :src="`/api/help/pictures/${help.page.picture}.svg`"
        :alt="`What ${help.page.title} does to a sample part`"
      />
      <section v-for="s in help.page.sections" :key="s.heading">
        <h3 v-if="s.heading">{{ s.heading }}</h3>
        <p v-for="t in s.paragraphs" :key="t">{{ t }}</p>
        <ul v-if="s.points.length">
          <li v-for="t in s.points" :key="t">{{ t }}</li>
        </ul>
        <dl v-if="s.rows.length">
          <template v-for="[name, what] in s.rows" :key="name"
            ><dt>{{ name }}</dt>
            <dd>{{ what }}</dd></template
          >
        </dl>
      </section>
    </article>
    <nav v-else class="scroll" data-testid="help-pages">
      <p v-if="help.pages.length && !help.found.length" class="muted">No page holds all of these words.</p>
      <section v-for="[group, list] in groups" :key="group">
        <h3>{{ group }}</h3>
        <button v-for="p in list" :key="p.id" :data-testid="`help-${p.id}`" @click="help.open = p.id">
          <b>{{ p.title }}</b><small>{{ p.line }}</small>
        </button>
      </section>
    </nav>
  </SidePanel>
</template>

<style scoped>
.find {
  display: flex;
  align-items: center;
  gap: 6px;
  color: var(--ink-2);
}
.find .field {
  flex: 1;
}
article,
nav {
  flex: 1;
  min-height: 0;
}
nav section {
  margin-bottom: 10px;
}
h3 {
  font-size: 12px;
  color: var(--ink-2);
  margin: 10px 0 4px;
}
nav button {
  display: block;
  width: 100%;
  text-align: left;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  padding: 4px 6px;
  border-radius: 6px;
  cursor: pointer;
}
nav button:hover {
  background: var(--chip);
}
nav b {
  font-weight: 600;
  display: block;
}
nav small {
  color: var(--ink-2);
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
h2 {
  font-size: 17px;
  margin: 2px 0 4px;
}
article p {
  margin: 4px 0;
  line-height: 1.45;
}
img {
  width: 100%;
  background: var(--paper);
  border-radius: 8px;
  margin: 6px 0;
}
ul {
  margin: 4px 0;
  padding-left: 18px;
}
li {
  margin: 3px 0;
  line-height: 1.4;
}
dl {
  display: grid;
  grid-template-columns: 116px 1fr;
  gap: 3px 10px;
  margin: 4px 0;
  font-size: 12.5px;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
}
.back {
  border: 0;
  background: none;
  color: var(--accent);
  font: inherit;
  padding: 0;
  cursor: pointer;
  display: flex;
  align-items: center;
  gap: 4px;
  margin-bottom: 6px;
}
.left {
  transform: scaleX(-1);
}
</style>
