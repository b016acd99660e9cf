<script setup lang="ts">
// Head bar: where one is, quick entry, undo and redo, revision, checks, hand over.
import { NDropdown, NPopover } from 'naive-ui'
import { computed } from 'vue'
import { KINDS } from '../document/kinds'
import { useDocument } from '../document/store'
import { useParameters } from '../parameters/store'
import UnitsFields from '../settings/UnitsFields.vue'
import { dark } from '../ui/theme'
import { type Units, units } from '../ui/units'
import Icon from '../ui/Icon.vue'
import Brand from './Brand.vue'
import QuickEntry from './QuickEntry.vue'

defineProps<{ checks: { holds: number; fails: number; doubts: number; stale: number } }>()
const emit = defineEmits<{ help: []; checks: []; parameters: []; handover: [what: string]; quick: [action: string] }>()
const doc = useDocument()
const parameters = useParameters()

const setUnits = (put: Units): void => void doc.edit([{ do: 'set_units', units: put }])

const handOver = computed(() => {
  const own = doc.view ? KINDS[doc.view.kind].handOver(doc.view) : []
  return [...own, { key: 'zip', label: 'Whole project (zip)' }].map(({ key, label }) => ({ key, label }))
})
</script>

<template>
  <header class="head">
    <Brand />
    <nav v-if="doc.view" class="where">
      <RouterLink to="/">{{ doc.view.project_name }}</RouterLink>
      <span>/</span>
      <b>{{ doc.view.document.name }}</b>
    </nav>
    <QuickEntry @quick="(a: string) => emit('quick', a)" />
    <div class="right">
      <button
        class="icon-btn"
        :disabled="!doc.view?.undo"
        :title="doc.view?.undo ? `Undo: ${doc.view.undo} (Ctrl+Z)` : 'Nothing to undo'"
        aria-label="Undo"
        data-testid="undo"
        @click="doc.undo()"
      >
        <Icon name="undo" />
      </button>
      <button
        class="icon-btn"
        :disabled="!doc.view?.redo"
        :title="doc.view?.redo ? `Redo: ${doc.view.redo} (Ctrl+Y)` : 'Nothing to redo'"
        aria-label="Redo"
        data-testid="redo"
        @click="doc.redo()"
      >
        <Icon name="redo" />
      </button>
      <span v-if="doc.view" class="badge" title="Revision" data-testid="revision">r {{ doc.view.revision }}</span>
      <NPopover v-if="doc.view" trigger="click" placement="bottom" style="padding: 12px; width: 290px">
        <template #trigger
          ><button class="badge" title="Units of this document" data-testid="units">
            {{ units.length === 'ft' && units.fractions ? 'ft-in' : units.length }}
          </button></template
        >
        <UnitsFields :model-value="units" @update:model-value="setUnits" />
      </NPopover>
      <button
        v-if="parameters.troubled.length"
        class="badge"
        :title="parameters.troubled.map((t) => t.text).join('\n')"
        data-testid="limits-badge"
        @click="emit('parameters')"
      >
        <span class="no"><Icon name="alert" :size="14" /> {{ parameters.troubled.length }}</span>
        {{ parameters.troubled.length === 1 ? 'parameter' : 'parameters' }}
      </button>
      <button class="badge checks" title="Checks of this document" data-testid="checks-badge" @click="emit('checks')">
        <span class="ok"><Icon name="check" :size="14" /> {{ checks.holds }}</span>
        <span v-if="checks.fails" class="no"><Icon name="cross" :size="14" /> {{ checks.fails }}</span>
        <span v-if="checks.doubts" class="doubt" title="What should hold and does not"
          ><Icon name="alert" :size="14" /> {{ checks.doubts }}</span
        >
        <span v-if="checks.stale"><Icon name="clock" :size="14" /> {{ checks.stale }}</span>
        checks
      </button>
      <button
        class="icon-btn"
        :title="dark ? 'Light theme' : 'Dark theme'"
        :aria-label="dark ? 'Light theme' : 'Dark theme'"
        @click="dark = !dark"
      >
        <Icon :name="dark ? 'sun' : 'moon'" :size="17" />
      </button>
      <button class="icon-btn" title="Help (F1)" aria-label="Help" data-testid="help-button" @click="emit('help')">
        <Icon name="help" :size="17" />
      </button>
      <NDropdown :options="handOver" trigger="click" @select="(k: string) => emit('handover', k)">
        <button class="btn main" data-testid="hand-over">Hand over</button>
      </NDropdown>
    </div>
  </header>
</template>

<style scoped>
.head {
  height: 48px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 0 14px;
  background: var(--head);
  color: var(--head-ink);
}
.where {
  display: flex;
  gap: 7px;
  align-items: center;
  min-width: 0;
  white-space: nowrap;
  flex: 1 1 220px;
  overflow: hidden;
}
.where a {
  color: inherit;
  opacity: 0.75;
  text-decoration: none;
  overflow: hidden;
  text-overflow: ellipsis;
}
.where b {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
}
.right {
  display: flex;
  align-items: center;
  gap: 6px;
  flex: 1 1 auto;
  justify-content: flex-end;
}
.badge {
  display: inline-flex;
  align-items: center;
  gap: 7px;
  height: 26px;
  padding: 0 9px;
  border-radius: 6px;
  background: var(--head-2);
  white-space: nowrap;
  font-size: 12.5px;
}
.badge span {
  display: inline-flex;
  align-items: center;
  gap: 3px;
}
.ok {
  color: #9ed6b9;
}
.no {
  color: #f3a99d;
}
.doubt {
  color: #ecc475;
}
</style>
