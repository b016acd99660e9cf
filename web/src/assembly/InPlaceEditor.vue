<script setup lang="ts">
// A new part made in the assembly: what it is called, and where its origin lies.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import EditCard from './EditCard.vue'
import { useMaking } from './inplace'
import PickRow from './PickRow.vue'

const making = useMaking()
const doc = useDocument()
const host = computed(() => doc.assembly?.components?.find((c) => c.id === making.origin?.component)?.name)
const words = computed(() => (making.origin ? `${host.value} · ${making.origin.pick?.kind ?? 'port'}` : 'pick a face, edge or corner'))
</script>

<template>
  <EditCard testid="in-place-editor" @keep="making.keep()" @leave="making.discard()">
    <header><Icon name="plus" :size="16" /> <b>Part made in place</b></header>
    <div class="row">
      <label for="in-place-name">Name</label>
      <input
        id="in-place-name"
        v-model="making.name"
        class="field"
        maxlength="80"
        spellcheck="false"
        data-testid="in-place-name"
        @keydown.stop="
          (e: KeyboardEvent) => {
            if (e.key === 'Enter') making.keep()
            if (e.key === 'Escape') making.discard()
          }
        "
      />
    </div>
    <PickRow
      label="Origin"
      :words="words"
      :next="!making.origin"
      :set="making.origin !== null"
      testid="in-place-origin"
      @anew="making.origin = null"
    />
    <template v-if="making.origin">
      <div class="row">
        <label for="in-place-axes">Axes</label>
        <select id="in-place-axes" v-model="making.turned" class="field" data-testid="in-place-axes">
          <option :value="false">as the assembly</option>
          <option :value="true">Z out of the pick</option>
        </select>
      </div>
      <p class="muted small">It moves with {{ host }}.</p>
    </template>
    <p v-else class="hint"><Icon name="hand" :size="15" /> Without a pick it lies at the origin of the assembly</p>
    <footer>
      <button class="btn" @click="making.discard()">Discard</button>
      <button class="btn main" data-testid="keep-in-place" :disabled="!making.name.trim() || doc.saving" @click="making.keep()">
        Make it
      </button>
    </footer>
  </EditCard>
</template>

<style scoped>
.row > .field {
  width: 150px;
}
.small {
  font-size: 12px;
  margin: 0;
}
</style>
