<script setup lang="ts">
// Positions kept by name: taken with a click, kept anew, given up.
import { computed, ref } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'

const doc = useDocument()
const positions = computed(() => doc.assembly?.positions ?? [])
const name = ref('')
const again = computed(() => positions.value.some((p) => p.name === name.value.trim()))

async function keep(): Promise<void> {
  const wish = name.value.trim()
  if (wish && (await doc.edit([{ do: 'keep_position', name: wish }]))) name.value = ''
}
</script>

<template>
  <h2>Positions</h2>
  <div class="kept-row" data-testid="positions">
    <span v-for="p in positions" :key="p.id" class="one">
      <button
        class="take"
        :title="`Have everything stand as in ${p.name}`"
        :data-testid="`position-${p.id}`"
        @click="doc.edit([{ do: 'take_position', id: p.id }])"
      >
        {{ p.name }}
      </button>
      <button
        class="icon-btn"
        :title="`Give ${p.name} up`"
        :aria-label="`Give ${p.name} up`"
        @click="doc.edit([{ do: 'remove_position', id: p.id }])"
      >
        <Icon name="close" :size="12" />
      </button>
    </span>
    <form @submit.prevent="keep">
      <input
        v-model="name"
        class="field"
        :placeholder="positions.length ? 'keep as …' : 'keep how it stands as …'"
        aria-label="Name of the position"
        maxlength="80"
        spellcheck="false"
        data-testid="position-name"
        @keydown.stop
      />
      <button v-if="name.trim()" class="btn small" data-testid="keep-position">{{ again ? 'Keep anew' : 'Keep' }}</button>
    </form>
  </div>
</template>

<style scoped>
h2 {
  font-size: 14px;
  margin: 14px 4px 6px;
}
</style>
