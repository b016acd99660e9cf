<script setup lang="ts">
// Chosen components moved and turned by what is typed.
import { computed, watch } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import EditCard from './EditCard.vue'
import { bare, lengthUnit, toMm } from '../ui/units'
import { useMoving } from './moving'

const moving = useMoving()
const doc = useDocument()
const names = computed(() => moving.chosen.map((id) => doc.assembly?.components?.find((c) => c.id === id)?.name).join(', '))
watch(
  () => moving.chosen,
  () => moving.look(),
)
const number = (event: Event): number => Number((event.target as HTMLInputElement).value.replace(',', '.')) || 0
const AXES = ['X', 'Y', 'Z'] as const
</script>

<template>
  <EditCard testid="move-editor" @keep="moving.keep()" @leave="moving.discard()">
    <header>
      <Icon name="move" :size="16" /> <b>Move</b>
      <span class="who muted" :title="names">{{ names || 'choose components' }}</span>
    </header>
    <div class="row">
      <label>By, {{ lengthUnit() }}</label>
      <span class="three">
        <input
          v-for="(a, k) in AXES"
          :key="a"
          class="field"
          :value="bare(moving.by[k])"
          :aria-label="`By ${a}`"
          :placeholder="a"
          :data-testid="`move-${a.toLowerCase()}`"
          @input="moving.set(k, toMm(number($event)))"
          @keydown.stop="(e: KeyboardEvent) => e.key === 'Enter' && moving.keep()"
        />
      </span>
    </div>
    <div class="row">
      <label for="move-turn">Turn, °</label>
      <span class="three">
        <input
          id="move-turn"
          class="field"
          :value="moving.turn"
          data-testid="move-turn"
          @input="moving.rotate(number($event), moving.axis)"
          @keydown.stop="(e: KeyboardEvent) => e.key === 'Enter' && moving.keep()"
        />
        <select
          class="field"
          :value="moving.axis"
          aria-label="About"
          data-testid="move-axis"
          @change="moving.rotate(moving.turn, ($event.target as HTMLSelectElement).value as 'X')"
        >
          <option v-for="a in AXES" :key="a" :value="a">about {{ a }}</option>
        </select>
      </span>
    </div>
    <p v-if="moving.still.length" class="hint"><Icon name="fixed" :size="14" /> What is anchored stays</p>
    <p v-else-if="!moving.chosen.length" class="hint"><Icon name="hand" :size="15" /> Click components in the picture or the tree</p>
    <p v-else class="muted small">Joints then pull back what they hold.</p>
    <footer>
      <button class="btn" @click="moving.discard()">Discard</button>
      <button class="btn main" data-testid="keep-move" :disabled="!moving.chosen.length || doc.saving" @click="moving.keep()">Keep</button>
    </footer>
  </EditCard>
</template>

<style scoped>
.who {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  text-align: right;
  font-size: 12px;
}
.three {
  display: flex;
  gap: 5px;
}
.three .field {
  width: 56px;
}
.three select.field {
  width: 88px;
}
.small {
  font-size: 12px;
  margin: 0;
}
</style>
