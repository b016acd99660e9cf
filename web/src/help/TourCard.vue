<script setup lang="ts">
import { nextTick, onMounted, onUnmounted, ref, watch } from 'vue'
import Icon from '../ui/Icon.vue'
import { STOPS, useTour } from './tour'

const tour = useTour()
const ring = ref<{ left: number; top: number; width: number; height: number } | null>(null)
const card = ref({ left: 0, top: 0 })
const WIDE = 300

async function place(): Promise<void> {
  await nextTick()
  const box = tour.stop && document.querySelector(tour.stop.at)?.getBoundingClientRect()
  if (!box) return ((ring.value = null), void (card.value = { left: innerWidth / 2 - WIDE / 2, top: innerHeight / 2 - 80 }))
  ring.value = { left: box.left - 4, top: box.top - 4, width: box.width + 8, height: box.height + 8 }
  // Beside what is meant, on the side with more room.
  const left = box.left > innerWidth - box.right ? box.left - WIDE - 18 : box.right + 18
  const big = box.width > innerWidth / 2
  card.value = {
    left: Math.min(Math.max(big ? box.left + 24 : left, 12), innerWidth - WIDE - 12),
    top: Math.min(Math.max(big ? box.top + 24 : box.top, 60), innerHeight - 230),
  }
}
watch(() => tour.at, place)
onMounted(() => {
  addEventListener('resize', place)
  void place()
})
onUnmounted(() => removeEventListener('resize', place))
</script>

<template>
  <Teleport v-if="tour.stop" to="body">
    <div
      v-if="ring"
      class="ring"
      :style="{ left: `${ring.left}px`, top: `${ring.top}px`, width: `${ring.width}px`, height: `${ring.height}px` }"
    />
    <section
      class="tour"
      role="dialog"
      :aria-label="tour.stop.title"
      data-testid="tour"
      :style="{ left: `${card.left}px`, top: `${card.top}px` }"
    >
      <header>
        <b>{{ tour.stop.title }}</b><button
          class="icon-btn"
          aria-label="End the tour"
          title="End the tour"
          data-testid="end-tour"
          @click="tour.end()"
        >
          <Icon name="close" :size="15" />
        </button>
      </header>
      <p>{{ tour.stop.text }}</p>
      <footer>
        <span class="muted">{{ (tour.at ?? 0) + 1 }} of {{ STOPS.length }}</span
        ><span class="grow" />
        <button v-if="tour.at" class="btn small" @click="tour.next(-1)">Back</button>
        <button class="btn small main" data-testid="next-stop" @click="tour.next()">
          {{ tour.at === STOPS.length - 1 ? 'Done' : 'Next' }}
        </button>
      </footer>
    </section>
  </Teleport>
</template>

<style scoped>
.ring {
  position: fixed;
  z-index: 2900;
  border: 2px solid var(--accent);
  border-radius: 9px;
  pointer-events: none;
  box-shadow: 0 0 0 4px color-mix(in srgb, var(--accent) 22%, transparent);
}
.tour {
  position: fixed;
  z-index: 2901;
  width: 300px;
  background: var(--panel);
  border: 1px solid var(--line-2);
  border-radius: 10px;
  box-shadow: var(--shadow);
  padding: 10px 14px 12px;
}
header,
footer {
  display: flex;
  align-items: center;
  gap: 8px;
}
header b {
  flex: 1;
  font-size: 14px;
}
p {
  margin: 6px 0 10px;
  line-height: 1.45;
}
.grow {
  flex: 1;
}
</style>
