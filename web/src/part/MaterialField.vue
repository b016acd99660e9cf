<script setup lang="ts">
// The material of the part, with its values; own materials can be added.
import { NModal, NPopover } from 'naive-ui'
import { reactive, ref } from 'vue'
import { call, Refusal, type Material } from '../api/client'
import { useDocument } from '../document/store'
import { density, stress, units } from '../ui/units'

const doc = useDocument()
const open = ref(false)
const making = ref(false)
const problem = ref('')
const own = reactive({ name: '', density: '7850 kg/m3', young: '210 GPa', poisson: '0.3', strength: '235 MPa' })

async function choose(m: Material): Promise<void> {
  open.value = false
  if (m.id !== doc.part?.material) await doc.edit([{ do: 'set_material', material: m.id }], `material ${m.name}`)
}
async function make(): Promise<void> {
  const project = doc.view?.project
  if (!project || !own.name.trim()) return
  const id = own.name.trim().slice(0, 40)
  try {
    await call('post', '/api/projects/{id}/materials', {
      path: { id: project },
      body: {
        id,
        name: own.name.trim(),
        density: own.density,
        young: own.young,
        poisson: Number(own.poisson),
        strength: own.strength,
        source: 'own',
        colour: '#b9c2bb',
      },
    })
    doc.materials = (await call('get', '/api/projects/{id}/materials', { path: { id: project } })).materials
    making.value = false
    await doc.edit([{ do: 'set_material', material: id }], `material ${own.name}`)
  } catch (error) {
    problem.value = error instanceof Refusal ? error.report.text : String(error)
  }
}
/** Values are taken with the unit they are typed with: 0.284 lb/in3, 30 Mpsi as 30000 ksi. */
const rows: ['density' | 'young' | 'poisson' | 'strength', string][] = [
  ['density', 'Density'],
  ['young', 'Young’s modulus'],
  ['poisson', 'Poisson’s ratio'],
  ['strength', 'Yield strength'],
]
</script>

<template>
  <NPopover v-model:show="open" trigger="click" placement="bottom-end" style="padding: 6px; width: 330px">
    <template #trigger>
      <button class="which" title="Material" data-testid="material">{{ doc.material?.id ?? doc.part?.material }}</button>
    </template>
    <div class="list scroll">
      <button
        v-for="m in doc.materials"
        :key="m.id"
        class="row"
        :class="{ on: m.id === doc.part?.material }"
        :title="m.source"
        @click="choose(m)"
      >
        <i :style="{ background: m.colour }" />
        <span
          ><b>{{ m.name }}</b
          ><small
            >{{ density(m.density) }} · E {{ units.stress === 'MPa' ? `${(m.young / 1000).toFixed(1)} GPa` : stress(m.young) }} · yield
            {{ stress(m.strength) }}</small
          ></span
        >
      </button>
    </div>
    <button class="btn small add" @click="((making = true), (open = false))">Add your own …</button>
  </NPopover>
  <NModal v-model:show="making" preset="card" title="Own material" style="width: 360px">
    <form class="own" @submit.prevent="make">
      <label>Name <input v-model="own.name" class="field" autofocus maxlength="40" /></label>
      <label v-for="[key, word] in rows" :key="key"
        >{{ word }} <input v-model="own[key]" class="field" spellcheck="false" :data-testid="`material-${key}`"
      /></label>
      <p v-if="problem" class="trouble">{{ problem }}</p>
      <div class="end">
        <button type="button" class="btn" @click="making = false">Cancel</button
        ><button class="btn main" :disabled="!own.name.trim()">Add</button>
      </div>
    </form>
  </NModal>
</template>

<style scoped>
.which {
  color: var(--ink-2);
  border-bottom: 1px dotted var(--ink-3);
  max-width: 110px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.which:hover {
  color: var(--accent);
}
.list {
  max-height: 330px;
}
.row {
  display: flex;
  gap: 9px;
  align-items: center;
  width: 100%;
  text-align: left;
  padding: 5px 8px;
  border-radius: 6px;
}
.row:hover,
.row.on {
  background: var(--accent-soft);
}
.row i {
  width: 16px;
  height: 16px;
  border-radius: 4px;
  border: 1px solid var(--line-2);
  flex: none;
}
.row b {
  display: block;
  font-weight: 600;
}
.row small {
  color: var(--ink-3);
}
.add {
  margin: 6px 8px 2px;
}
.own {
  display: grid;
  gap: 10px;
}
.own label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.own .field {
  width: 120px;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
