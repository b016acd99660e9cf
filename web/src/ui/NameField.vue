<script setup lang="ts">
// A name being typed where it stands: focused and chosen, kept by Enter or by leaving, left by Esc.
const props = defineProps<{ label: string; placeholder?: string; /** Left when nothing was typed. */ idle?: boolean }>()
const text = defineModel<string>({ required: true })
const emit = defineEmits<{ keep: []; leave: [] }>()
const ready = ({ el }: { el: HTMLInputElement }): void => {
  el.focus()
  el.select()
}
function blur(): void {
  if (!props.idle) emit('keep')
  else if (!text.value.trim()) emit('leave')
}
</script>

<template>
  <input
    v-model="text"
    class="field"
    :aria-label="label"
    :placeholder="placeholder"
    maxlength="80"
    @vue:mounted="ready"
    @keydown.stop
    @keydown.enter="emit('keep')"
    @keydown.esc="emit('leave')"
    @blur="blur"
  />
</template>
