<script setup lang="ts">
// What the assembly is made of, in three lists; a row lights its components in the picture.
import { NPopover } from 'naive-ui'
import { onMounted, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useDocument } from '../document/store'
import DocumentPicture from '../shelf/DocumentPicture.vue'
import Icon from '../ui/Icon.vue'
import { type Line, useListing, WAYS } from './listing'
import { useAssembly } from './store'

const doc = useDocument()
const asm = useAssembly()
const list = useListing()
const router = useRouter()
onMounted(() => void list.load())
watch(
  () => asm.built,
  () => void list.load(),
)
const lit = (line: Line): boolean => asm.selected.length > 0 && line.components.every((c) => asm.selected.includes(c))
function light(line: Line): void {
  asm.selected = lit(line) ? [] : line.components
}
</script>

<template>
  <div class="bar">
    <span class="segmented" role="group" aria-label="Which list">
      <button v-for="[way, word] in WAYS" :key="way" :class="{ on: list.way === way }" :data-testid="`list-${way}`" @click="list.show(way)">
        {{ word }}
      </button>
    </span>
    <input v-model="list.wanted" class="field find" placeholder="find in the list" aria-label="Find in the list" data-testid="list-find" />
    <span class="muted" data-testid="list-count">{{ list.rows.length }} {{ list.rows.length === 1 ? 'line' : 'lines' }}</span>
    <span class="grow" />
    <NPopover trigger="click" placement="top-end" style="padding: 8px 12px">
      <template #trigger><button class="btn small" data-testid="list-columns">Columns</button></template>
      <label v-for="c in list.every" :key="c.key" class="choice">
        <input type="checkbox" :checked="!list.hidden.includes(c.key)" @change="list.toggle(c.key)" /> {{ c.label }}
      </label>
    </NPopover>
    <button class="btn small" data-testid="list-csv" @click="list.save('csv')">CSV</button>
    <button class="btn small" data-testid="list-xlsx" @click="list.save('xlsx')">XLSX</button>
  </div>
  <p v-if="list.trouble" class="trouble">{{ list.trouble }}</p>
  <p v-else-if="!list.lines.length" class="muted">Nothing stands in this assembly yet. Bring parts in with Place.</p>
  <table v-else class="grid" data-testid="parts-list">
    <thead>
      <tr>
        <th />
        <th v-for="c in list.columns" :key="c.key" :class="{ r: c.number }">
          <button class="head" :title="`Sort by ${c.label.toLowerCase()}`" :data-testid="`sort-${c.key}`" @click="list.sort(c.key)">
            {{ c.label }}<Icon v-if="list.by?.key === c.key" :name="list.by.down ? 'down' : 'up'" :size="12" />
          </button>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="line in list.rows"
        :key="line.position + line.document"
        :class="{ lit: lit(line) }"
        data-testid="parts-line"
        @click="light(line)"
        @dblclick="line.kind !== 'gone' && router.push(`/d/${line.document}`)"
      >
        <td class="picture">
          <DocumentPicture :id="line.document" :kind="line.kind" :revision="doc.view?.revision ?? 0" :member="line.choice" />
        </td>
        <td v-for="c in list.columns" :key="c.key" :class="{ r: c.number, name: c.key === 'name' }">
          <span v-if="c.key === 'name'" :style="{ paddingLeft: `${list.by ? 0 : 16 * line.level}px` }">
            <Icon :name="line.kind === 'assembly' ? 'assembly' : line.kind === 'gone' ? 'alert' : 'box'" :size="14" /> {{ line.name }}
          </span>
          <template v-else>{{ list.shown(line, c.key) }}</template>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 2px 0 6px;
}
.bar > * {
  flex: none;
}
.bar > .find {
  flex: 0 1 170px;
  min-width: 70px;
}
/* Where the list is wider than the drawer it is pushed along, not folded up. */
th,
td {
  white-space: nowrap;
}
.bar > .grow {
  flex: 1;
}
.choice {
  display: flex;
  gap: 7px;
  align-items: center;
  padding: 2px 0;
}
.head {
  font: inherit;
  color: inherit;
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.r {
  text-align: right !important;
}
tbody tr {
  cursor: pointer;
}
tr.lit td {
  background: var(--pick-soft);
}
.picture {
  width: 40px;
  padding: 1px 4px;
}
.picture :deep(img),
.picture :deep(svg) {
  max-height: 26px;
  max-width: 36px;
}
.name svg {
  vertical-align: -2px;
}
</style>
