<script setup lang="ts">
// Positions kept by name: taken with a click, kept anew, given up.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import KeptRow from '../ui/KeptRow.vue'

const doc = useDocument()
const positions = computed(() => doc.assembly?.positions ?? [])
async function keep(name: string, done: () => void): Promise<void> {
  if (await doc.edit([{ do: 'keep_position', name }])) done()
}
</script>

<template>
  <h2>Positions</h2>
  <KeptRow
    :items="positions"
    word="position"
    does="Have everything stand as in"
    keeps
    :placeholder="positions.length ? 'keep as …' : 'keep how it stands as …'"
    data-testid="positions"
    @take="(id) => doc.edit([{ do: 'take_position', id }])"
    @leave="(id) => doc.edit([{ do: 'remove_position', id }])"
    @keep="keep"
  />
</template>

<style scoped>
h2 {
  font-size: 14px;
  margin: 14px 4px 6px;
}
</style>
