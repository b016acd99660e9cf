<script setup lang="ts">
// The script pane: text with line numbers at the left, what it said at the right.
import { nextTick, ref, watch } from 'vue'
import { useDocument } from '../document/store'
import { useShown } from '../document/shown'
import Icon from '../ui/Icon.vue'
import { useScripts } from './store'

const scripts = useScripts()
const doc = useDocument()
const shown = useShown()
const area = ref<HTMLTextAreaElement | null>(null)
const numbers = ref<HTMLElement | null>(null)
const LINE = 18

function go(line: number): void {
  const field = area.value
  if (!field || line < 1) return
  const lines = scripts.text.split('\n')
  const start = lines.slice(0, line - 1).reduce((sum, l) => sum + l.length + 1, 0)
  field.focus()
  field.setSelectionRange(start, start + (lines[line - 1]?.length ?? 0))
  field.scrollTop = Math.max(0, (line - 4) * LINE)
}
function key(event: KeyboardEvent): void {
  event.stopPropagation()
  const field = event.target as HTMLTextAreaElement
  if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault()
    void scripts.run()
  } else if (event.key === 'Tab' && !event.shiftKey) {
    event.preventDefault()
    field.setRangeText('    ', field.selectionStart, field.selectionEnd, 'end')
    scripts.text = field.value
  } else if (event.key === 'Enter') {
    // The next line begins as far in as this one, further after a colon.
    const before = field.value.slice(0, field.selectionStart)
    const last = before.slice(before.lastIndexOf('\n') + 1)
    const indent = /^\s*/.exec(last)![0] + (last.trimEnd().endsWith(':') ? '    ' : '')
    if (!indent) return
    event.preventDefault()
    field.setRangeText('\n' + indent, field.selectionStart, field.selectionEnd, 'end')
    scripts.text = field.value
  } else if (event.key === 'Escape') field.blur()
}
const attempt = (work: Promise<void>): void => void work.catch(doc.refused)
watch(
  () => scripts.trouble,
  async (t) => {
    await nextTick()
    if (t?.line) go(t.line)
  },
)
</script>

<template>
  <div class="script">
    <div class="top">
      <button v-if="!scripts.running" class="btn small main" title="Run (Ctrl+Enter)" data-testid="run-script" @click="scripts.run()">
        <Icon name="play" :size="14" /> Run
      </button>
      <button v-else class="btn small" data-testid="stop-script" @click="attempt(scripts.stop())">Stop</button>
      <button
        class="btn small"
        :class="{ rec: scripts.recording }"
        :aria-pressed="scripts.recording"
        data-testid="record-script"
        title="Write down as script what is done by hand"
        @click="scripts.record()"
      >
        <Icon name="circle" :size="12" /> {{ scripts.recording ? 'Recording' : 'Record' }}
      </button>
      <button class="btn small" data-testid="tell-script" title="The script that makes this document" @click="attempt(scripts.tell())">
        This {{ doc.view?.kind }} as script
      </button>
      <span v-if="shown.picked.length" class="muted">{{ shown.picked.length }} picked</span>
      <span class="grow" />
      <select
        class="field"
        aria-label="Kept scripts"
        data-testid="kept-scripts"
        :value="scripts.kept.some((s) => s.name === scripts.name) ? scripts.name : ''"
        @change="scripts.open(($event.target as HTMLSelectElement).value)"
      >
        <option value="" disabled>{{ scripts.kept.length ? 'Kept scripts' : 'None kept yet' }}</option>
        <option v-for="s in scripts.kept" :key="s.name" :value="s.name">{{ s.name }}</option>
      </select>
      <input
        v-model="scripts.name"
        class="field"
        placeholder="Name to keep it"
        maxlength="60"
        aria-label="Name of the script"
        data-testid="script-name"
        @keydown.stop
      />
      <button class="btn small" :disabled="!scripts.name.trim()" data-testid="keep-script" @click="attempt(scripts.keep())">Keep</button>
      <button
        class="icon-btn"
        :disabled="!scripts.kept.some((s) => s.name === scripts.name)"
        title="Delete the kept script"
        aria-label="Delete the kept script"
        @click="attempt(scripts.forget())"
      >
        <Icon name="bin" :size="14" />
      </button>
    </div>
    <div class="halves">
      <div class="editor">
        <div ref="numbers" class="numbers" aria-hidden="true">
          <span v-for="n in scripts.lines" :key="n" :class="{ bad: scripts.trouble?.line === n }">{{ n }}</span>
        </div>
        <textarea
          ref="area"
          v-model="scripts.text"
          spellcheck="false"
          aria-label="Script"
          data-testid="script-text"
          wrap="off"
          @keydown="key"
          @scroll="numbers!.scrollTop = area!.scrollTop"
        />
      </div>
      <div class="said scroll" data-testid="script-said">
        <p v-for="(s, i) in scripts.printed" :key="i">
          <button :title="`Line ${s.line}`" @click="go(s.line)">{{ s.line }}</button> <span>{{ s.text }}</span>
        </p>
        <p v-if="scripts.trouble" class="bad" data-testid="script-trouble">
          <button v-if="scripts.trouble.line" @click="go(scripts.trouble.line)">{{ scripts.trouble.line }}</button>
          <Icon name="cross" :size="14" /> <span>{{ scripts.trouble.text }}</span>
        </p>
        <p v-if="scripts.running" class="muted">running …</p>
        <p v-else-if="scripts.outcome" class="muted" data-testid="script-outcome">{{ scripts.outcome }}</p>
        <p v-else-if="!scripts.printed.length && !scripts.trouble" class="muted words">
          A script works with the same steps and commands as the screen: <code>part.extrude("Lid", sketch=s, depth="3 mm")</code>. What it
          did is one edit, kept only when it runs to its end. What it prints stands here, with its lines.
        </p>
      </div>
    </div>
  </div>
</template>

<style scoped>
.script {
  height: 100%;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.top {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 4px 0;
  flex: none;
}
.top .field {
  width: 132px;
  height: 24px;
}
.grow {
  flex: 1;
}
.rec {
  color: var(--bad);
  border-color: var(--bad);
}
.halves {
  flex: 1;
  min-height: 0;
  display: flex;
  gap: 10px;
}
.editor {
  flex: 3;
  min-width: 0;
  display: flex;
  border: 1px solid var(--line);
  border-radius: 6px;
  overflow: hidden;
  background: var(--paper);
}
.editor:focus-within {
  border-color: var(--accent);
}
.numbers {
  flex: none;
  width: 38px;
  overflow: hidden;
  padding: 5px 6px 5px 0;
  text-align: right;
  color: var(--ink-3);
  font:
    12px/18px ui-monospace,
    monospace;
  user-select: none;
  display: flex;
  flex-direction: column;
}
.numbers span {
  flex: none;
}
.numbers .bad {
  color: #fff;
  background: var(--bad);
  border-radius: 3px;
}
textarea {
  flex: 1;
  min-width: 0;
  resize: none;
  border: 0;
  outline: 0;
  background: none;
  color: var(--ink);
  padding: 5px 6px;
  font:
    12px/18px ui-monospace,
    monospace;
  tab-size: 4;
  white-space: pre;
}
.said {
  flex: 2;
  min-width: 0;
  font-size: 12px;
}
.said p {
  margin: 0;
  display: flex;
  gap: 7px;
  align-items: baseline;
  padding: 1px 2px;
}
.said p.words {
  display: block;
  line-height: 1.45;
}
.said p > button {
  border: 0;
  background: none;
  color: var(--ink-3);
  font: inherit;
  min-width: 24px;
  text-align: right;
  cursor: pointer;
  padding: 0;
}
.said span {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.bad {
  color: var(--bad);
}
code {
  font-size: 11.5px;
}
</style>
