<script setup lang="ts">
// The bodies of a part: name, colour, mass, shown or hidden; each opens its own values.
import { NPopover } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { mass } from '../ui/format'
import Icon from '../ui/Icon.vue'
import MassCard from '../measure/MassCard.vue'
import { useShown } from '../document/shown'
import { area, grams, rounded, units, volume } from '../ui/units'

type BodyView = Schemas['BodyView']
const doc = useDocument()
const shown = useShown()
const router = useRouter()
const open = ref(true)
const weighing = ref(false)
const bodies = computed(() => doc.build?.bodies ?? [])
const look = (id: string): Partial<Schemas['Look']> => doc.part?.looks?.find((l) => l.body === id) ?? {}

function set(body: BodyView, fields: Record<string, unknown>): void {
  void doc.edit([{ do: 'set_body', body: body.id, ...fields }], `change ${body.name}`)
}
function own(body: BodyView, text: string): void {
  const typed = Number.parseFloat(text.replace(',', '.')) / grams(1)
  set(body, { mass: Number.isFinite(typed) && typed > 0 ? typed : null })
}
async function separate(): Promise<void> {
  const view = doc.view
  if (!view) return
  try {
    const made = await call('post', '/api/documents/{id}/separate', { path: { id: view.id } })
    await router.push(`/d/${made.id}`)
  } catch (error) {
    doc.refused(error)
  }
}
const value = (event: Event): string => (event.target as HTMLInputElement).value
</script>

<template>
  <section v-if="bodies.length" class="bodies">
    <header>
      <button class="fold" :aria-expanded="open" @click="open = !open">
        <Icon :name="open ? 'down' : 'right'" :size="14" /> {{ bodies.length === 1 ? '1 body' : `${bodies.length} bodies` }}
      </button>
      <span class="grow" />
      <button class="chip" title="Volume, centre, inertia" data-testid="mass-open" @click="weighing = true">Mass</button>
      <button v-if="shown.hidden.size" class="chip" @click="shown.hidden = new Set()">Show all</button>
      <button
        v-if="bodies.length > 1"
        class="chip"
        title="Each body becomes a part that follows this one; an assembly places them"
        data-testid="separate"
        @click="separate"
      >
        Into parts
      </button>
    </header>
    <div v-if="open" class="rows scroll">
      <div v-for="b in bodies" :key="b.id" class="row" :class="{ off: shown.hidden.has(b.id) }" :data-testid="`body-${b.id}`">
        <NPopover trigger="click" placement="left" style="padding: 12px; width: 270px">
          <template #trigger>
            <button class="open" :title="`Name, material, colour and mass of ${b.name}`">
              <i :style="{ background: b.colour, opacity: b.opacity }" /><span class="name">{{ b.name }}</span
              ><small v-if="b.tool" title="Not weighed, not handed over">tool</small
              ><small v-else-if="look(b.id).material">{{ b.material }}</small>
            </button>
          </template>
          <div class="values">
            <label
              >Name
              <input
                class="field"
                :value="look(b.id).name ?? ''"
                :placeholder="b.name"
                maxlength="80"
                data-testid="body-name"
                @change="set(b, { name: value($event) || null })"
            /></label>
            <label
              >Material
              <select
                class="field"
                :value="look(b.id).material ?? ''"
                data-testid="body-material"
                @change="set(b, { material: value($event) || null })"
              >
                <option value="">as the part</option>
                <option v-for="m in doc.materials" :key="m.id" :value="m.id">{{ m.name }}</option>
              </select>
            </label>
            <label
              >Colour
              <span
                ><input type="color" :value="b.colour" data-testid="body-colour" @change="set(b, { colour: value($event) })" /><button
                  v-if="look(b.id).colour"
                  class="chip"
                  @click="set(b, { colour: null })"
                >
                  of its material
                </button></span
              ></label
            >
            <label
              >Opacity
              <span
                ><input
                  type="range"
                  min="0.1"
                  max="1"
                  step="0.05"
                  :value="b.opacity"
                  @change="set(b, { opacity: Number(value($event)) })"
                />
                {{ Math.round(b.opacity * 100) }} %</span
              ></label
            >
            <label
              >Own mass
              <span
                ><input
                  class="field short"
                  :value="look(b.id).mass ? rounded(grams(look(b.id).mass!)) : ''"
                  placeholder="by volume"
                  data-testid="body-mass"
                  @change="own(b, value($event))"
                />
                {{ units.mass }}</span
              ></label
            >
            <label title="It shapes others and is no part of the product: not weighed, not handed over"
              >A tool <input type="checkbox" :checked="b.tool" data-testid="body-tool" @change="set(b, { tool: !b.tool })"
            /></label>
            <p class="muted">{{ volume(b.volume) }} · {{ area(b.area) }}</p>
          </div>
        </NPopover>
        <span v-if="b.form === 'solid'" class="mass">{{ mass(b.mass) }}</span>
        <span v-else class="mass" :title="`A ${b.form}: it weighs nothing until it is thickened`"
          >{{ b.form }}{{ b.area ? ' ' + area(b.area, true) : '' }}</span
        >
        <button
          class="icon-btn"
          :aria-label="shown.hidden.has(b.id) ? `Show ${b.name}` : `Hide ${b.name}`"
          :title="shown.hidden.has(b.id) ? 'Show' : 'Hide; with Shift show it alone'"
          @click="(e: MouseEvent) => (e.shiftKey ? shown.isolate(b.id) : shown.toggle(b.id))"
        >
          <Icon :name="shown.hidden.has(b.id) ? 'eyeoff' : 'eye'" :size="15" />
        </button>
      </div>
    </div>
    <MassCard v-if="weighing" @shut="weighing = false" />
  </section>
</template>

<style scoped>
.bodies {
  border-top: 1px solid var(--line);
  padding: 5px 10px 7px;
  flex: none;
}
header {
  display: flex;
  align-items: center;
  gap: 4px;
}
.fold {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  font-weight: 600;
  font-size: 12px;
  color: var(--ink-2);
  height: 24px;
}
.grow {
  flex: 1;
}
.rows {
  max-height: 142px;
}
.row {
  display: flex;
  align-items: center;
  gap: 4px;
  height: 27px;
  border-radius: 6px;
  padding-right: 2px;
}
.row:hover {
  background: color-mix(in srgb, var(--accent-soft) 60%, transparent);
}
.row.off {
  opacity: 0.5;
}
.open {
  display: flex;
  align-items: center;
  gap: 8px;
  flex: 1;
  min-width: 0;
  text-align: left;
  height: 100%;
  padding-left: 4px;
}
.open i {
  width: 13px;
  height: 13px;
  border-radius: 4px;
  border: 1px solid var(--line-2);
  flex: none;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.open small {
  color: var(--ink-3);
  white-space: nowrap;
}
.mass {
  font-size: 12px;
  color: var(--ink-3);
  white-space: nowrap;
}
.values {
  display: grid;
  gap: 8px;
}
.values label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  color: var(--ink-2);
}
.values label > span {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  color: var(--ink);
}
.values .field {
  width: 150px;
  color: var(--ink);
}
.values .short {
  width: 92px;
}
.values p {
  margin: 0;
  font-size: 12px;
}
input[type='range'] {
  width: 96px;
  accent-color: var(--accent);
}
input[type='color'] {
  width: 34px;
  height: 24px;
  padding: 0;
  border: 1px solid var(--line-2);
  border-radius: 5px;
  background: none;
}
</style>
