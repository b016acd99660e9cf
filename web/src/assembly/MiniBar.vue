<script setup lang="ts">
// Beside the second of two picks: what fits them, the proposed first; chosen and kept right there.
import { computed } from 'vue'
import type { Vector3 } from 'three'
import Icon from '../ui/Icon.vue'
import type { Engine } from '../viewport/engine'
import { natureOf, useJoining } from './joining'

const props = defineProps<{ engine: Engine; at: Vector3; tick: number }>()
const joining = useJoining()
const MOST = 8
const NATURES: Record<string, string> = { axis: 'axis', circle: 'axis', line: 'axis', plane: 'plane', point: 'point' }
const fitting = computed(() => {
  const [a, b] = [joining.ends.a?.pick, joining.ends.b?.pick]
  if (!a || !b) return []
  const pair = [natureOf(a), natureOf(b)].sort().join(' ')
  const found = joining.kinds.filter((k) => k.family !== 'Drive' && k.fits.includes(pair))
  const both = pair.split(' ').map((n) => NATURES[n])
  // What is proposed, what such ends mostly are for, what asks for a size, the rest, what asks for more.
  function rank(k: (typeof found)[number]): number {
    if (k.best.includes(pair)) return 0
    if (k.factor) return 5
    if (k.about) return both.every((n) => n === k.about) ? 1 : 4
    return k.coordinates.length ? 2 : 3
  }
  const best = [...found].sort((x, y) => rank(x) - rank(y)).slice(0, MOST)
  const now = joining.kind
  // What is chosen is always among them.
  return now && !best.includes(now) ? [...best.slice(0, MOST - 1), now] : best
})
const place = computed(() => {
  void props.tick
  const [x, y] = props.engine.camera.project(props.at)
  const box = props.engine.canvas.getBoundingClientRect()
  const width = 34 * (fitting.value.length + 2) + 32
  return { left: `${Math.max(6, Math.min(x + 14, box.width - width))}px`, top: `${Math.max(6, Math.min(y + 14, box.height - 48))}px` }
})
</script>

<template>
  <div v-if="fitting.length" class="bar" :style="place" role="toolbar" aria-label="What fits the two picks" data-testid="mini-bar">
    <button
      v-for="k in fitting"
      :key="k.kind"
      class="icon-btn"
      :class="{ on: joining.kindName === k.kind }"
      :title="`${k.label}: ${k.line}`"
      :aria-label="k.label"
      :data-testid="`mini-${k.kind}`"
      @click="joining.choose(k.kind)"
    >
      <Icon :name="k.icon" :size="17" />
    </button>
    <i />
    <button
      class="icon-btn keep"
      title="Keep it (Enter)"
      aria-label="Keep the joint"
      data-testid="mini-keep"
      :disabled="joining.trouble !== null || !joining.trial"
      @click="joining.keep()"
    >
      <Icon name="check" :size="17" />
    </button>
    <button class="icon-btn" title="Leave it (Esc)" aria-label="Leave the joint" @click="joining.discard()">
      <Icon name="close" :size="15" />
    </button>
  </div>
</template>

<style scoped>
.bar {
  position: absolute;
  display: flex;
  align-items: center;
  gap: 2px;
  padding: 3px 5px;
  border: 1px solid var(--line-2);
  border-radius: 9px;
  background: var(--panel);
  box-shadow: 0 3px 10px rgb(0 0 0 / 18%);
}
.icon-btn {
  width: 32px;
  height: 32px;
}
.icon-btn.on {
  color: var(--accent);
  background: var(--accent-soft);
}
.keep:not(:disabled) {
  color: var(--accent);
}
i {
  width: 1px;
  height: 22px;
  margin: 0 3px;
  background: var(--line);
}
</style>
