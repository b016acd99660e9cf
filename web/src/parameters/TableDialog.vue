<script setup lang="ts">
// A table pasted or read from a file: what it would do, then put in as one edit.
import { NModal } from 'naive-ui'
import { ref, watch } from 'vue'
import { call, Refusal, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'

const props = defineProps<{ text: string | null }>()
const emit = defineEmits<{ close: [] }>()
const doc = useDocument()
const typed = ref('')
const read = ref<Schemas['TableRead'] | null>(null)
const trouble = ref('')

watch(
  () => props.text,
  (t) => {
    if (t === null) return
    typed.value = t
    read.value = null
    trouble.value = ''
    if (t.trim()) void look()
  },
  { immediate: true },
)
async function look(): Promise<void> {
  const id = doc.view?.id
  if (!id) return
  trouble.value = ''
  read.value = null
  try {
    read.value = await call('post', '/api/documents/{id}/parameters/table', { path: { id }, body: { text: typed.value } })
  } catch (error) {
    trouble.value = error instanceof Refusal ? error.report.text : String(error)
  }
}
async function put(): Promise<void> {
  if (!read.value) return
  if (await doc.edit(read.value.commands as never, 'put in a table')) emit('close')
  else trouble.value = doc.failure?.text ?? ''
}
const said = (c: Record<string, unknown>): string => [c.formula, c.group, c.note].filter(Boolean).join(' · ')
</script>

<template>
  <NModal
    :show="props.text !== null"
    preset="card"
    title="Put in a table"
    style="width: 620px"
    @update:show="(v: boolean) => !v && emit('close')"
  >
    <div @keydown.stop>
      <p class="muted">
        Copy cells from a spreadsheet and paste them here. Columns: name, formula or value, unit, limits, group, note; a first line may name
        them.
      </p>
      <textarea
        v-model="typed"
        class="field text"
        rows="7"
        spellcheck="false"
        aria-label="Table"
        data-testid="table-text"
        @input="read = null"
      />
      <p v-if="trouble" class="trouble" data-testid="table-trouble"><Icon name="cross" :size="15" /> {{ trouble }}</p>
      <ul v-if="read" class="rows scroll" data-testid="table-read">
        <li v-for="(c, i) in read.commands" :key="i">
          <small>{{ c.do === 'add_parameter' ? 'new' : 'changed' }}</small> <b>{{ c.name }}</b> {{ said(c) }}
        </li>
      </ul>
      <footer>
        <span v-if="read" class="muted">{{ read.new }} new, {{ read.commands.length - read.new }} changed</span><span class="grow" />
        <button class="btn" @click="emit('close')">Cancel</button>
        <button v-if="!read" class="btn main" :disabled="!typed.trim()" data-testid="table-look" @click="look">Read it</button>
        <button v-else class="btn main" data-testid="table-put" @click="put">Put in</button>
      </footer>
    </div>
  </NModal>
</template>

<style scoped>
.text {
  width: 100%;
  height: auto;
  padding: 6px 8px;
  font-family: inherit;
  resize: vertical;
}
.rows {
  list-style: none;
  margin: 8px 0;
  padding: 0;
  max-height: 170px;
}
.rows small {
  display: inline-block;
  width: 56px;
  color: var(--ink-2);
}
footer {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 10px;
}
.grow {
  flex: 1;
}
p {
  margin: 0 0 8px;
}
</style>
