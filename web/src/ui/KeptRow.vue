<script setup lang="ts">
// Things kept by name: taken with a click, given up, one more kept.
import { ref } from 'vue'
import Icon from './Icon.vue'

const props = defineProps<{
  items: { id: string; name: string }[]
  /** What the tests and the fields call it. */
  word: string
  /** What a click on one does, in words before its name. */
  does: string
  /** Whether there is something to keep now. */
  keeps: boolean
  placeholder: string
}>()
const emit = defineEmits<{ take: [id: string]; leave: [id: string]; keep: [name: string, done: () => void] }>()
const name = ref('')
function keep(): void {
  const wish = name.value.trim()
  if (wish) emit('keep', wish, () => (name.value = ''))
}
const again = (): boolean => props.items.some((x) => x.name === name.value.trim())
</script>

<template>
  <div class="kept">
    <slot name="first" />
    <span v-for="x in items" :key="x.id" class="one">
      <button class="take" :title="`${does} ${x.name}`" :data-testid="`${word}-${x.id}`" @click="emit('take', x.id)">{{ x.name }}</button>
      <button class="icon-btn" :title="`Give ${x.name} up`" :aria-label="`Give ${x.name} up`" @click="emit('leave', x.id)">
        <Icon name="close" :size="12" />
      </button>
    </span>
    <slot />
    <form v-if="keeps" @submit.prevent="keep">
      <input
        v-model="name"
        class="field"
        :placeholder="placeholder"
        :aria-label="`Name of the ${word}`"
        maxlength="80"
        spellcheck="false"
        :data-testid="`${word}-name`"
        @keydown.stop
      />
      <button v-if="name.trim()" class="btn small" :data-testid="`keep-${word}`">{{ again() ? 'Keep anew' : 'Keep' }}</button>
    </form>
  </div>
</template>

<style scoped>
.kept {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.one {
  display: inline-flex;
  align-items: center;
  border: 1px solid var(--line-2);
  border-radius: 7px;
  padding-left: 9px;
  background: var(--panel);
}
.take {
  font: inherit;
  font-size: 12.5px;
  height: 25px;
}
.take:hover {
  color: var(--accent);
}
form {
  display: flex;
  gap: 6px;
  flex: 1 1 160px;
}
form .field {
  flex: 1;
  min-width: 120px;
}
</style>
