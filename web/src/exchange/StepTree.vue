<script setup lang="ts">
// What a STEP file is made of, before any of it is read: ticked is what comes in.
import { NModal } from 'naive-ui'
import { computed } from 'vue'
import Icon from '../ui/Icon.vue'
import TroubleNote from '../ui/TroubleNote.vue'
import { length } from '../ui/units'
import { useBringing } from './bringing'

const bringing = useBringing()
const size = computed(() => {
  const mb = (bringing.file?.size ?? 0) / 1e6
  return mb >= 1 ? `${mb.toFixed(1)} MB` : `${Math.ceil(1000 * mb)} kB`
})
const kept = computed(() => bringing.tree?.rows.some((r) => !bringing.left.has(r.number)) ?? false)
const seen = computed(() => (typeof bringing.look === 'object' ? bringing.look : null))
const words = computed(() => {
  if (!seen.value) return typeof bringing.look === 'string' ? bringing.look : bringing.looked === null ? '' : 'reading …'
  const { size, solids } = seen.value
  return `${size.map((v) => length(v)).join(' × ')} · ${solids} ${solids === 1 ? 'solid' : 'solids'}`
})
const picture = computed(() => seen.value && `data:image/svg+xml;utf8,${encodeURIComponent(seen.value.picture)}`)
</script>

<template>
  <NModal v-if="bringing.tree" show @update:show="(on: boolean) => on || bringing.close(null)">
    <section class="sheet" data-testid="step-tree" role="dialog" aria-label="Bring in a STEP file">
      <header>
        <b>{{ bringing.file?.name }}</b>
        <span class="muted"
          >{{ bringing.tree.products }} products · {{ size }}{{ bringing.tree.unit ? ` · in ${bringing.tree.unit}` : '' }}</span
        >
      </header>
      <div class="bar">
        <input
          v-model="bringing.wanted"
          class="field"
          placeholder="find"
          aria-label="Find a product"
          data-testid="step-find"
          @keydown.stop
        />
        <button class="chip" @click="bringing.tick(true)">All</button>
        <button class="chip" data-testid="step-none" @click="bringing.tick(false)">None</button>
      </div>
      <div class="both">
        <div class="list scroll">
          <div
            v-for="(r, n) in bringing.rows"
            :key="n"
            class="line"
            :class="{ on: bringing.looked === r.number }"
            :style="{ paddingLeft: `${8 + 16 * r.level}px` }"
          >
            <input
              type="checkbox"
              :checked="!bringing.left.has(r.number)"
              :aria-label="`Bring in ${r.name}`"
              :data-testid="`step-row-${n}`"
              @change="bringing.toggle(r.number)"
            />
            <button class="what" title="See what it is" :data-testid="`step-look-${n}`" @click="bringing.see(r.number)">
              <Icon :name="r.holds ? 'assembly' : 'part'" :size="15" />
              <span>{{ r.name }}</span>
              <span v-if="r.count > 1" class="muted">{{ r.count }} ×</span>
            </button>
          </div>
          <p v-if="!bringing.rows.length" class="muted">None is called so.</p>
        </div>
        <figure v-if="bringing.looked !== null" data-testid="step-look">
          <img v-if="picture" :src="picture" alt="The product" />
          <figcaption class="muted">{{ words }}</figcaption>
        </figure>
      </div>
      <p v-for="f in bringing.tree.faults.slice(0, 5)" :key="f" class="fault"><Icon name="alert" :size="14" /> {{ f }}</p>
      <TroubleNote v-if="bringing.trouble" :report="bringing.trouble" />
      <footer>
        <span v-if="bringing.busy" class="muted">reading …</span>
        <button class="btn" @click="bringing.close(null)">Leave it</button>
        <button
          class="btn"
          :disabled="bringing.busy"
          title="All of it, as bodies of one part"
          data-testid="step-part"
          @click="bringing.take('part')"
        >
          As one part
        </button>
        <button
          class="btn main"
          :disabled="bringing.busy || !kept"
          title="A part for each product, in the assemblies they stand in"
          data-testid="step-assembly"
          @click="bringing.take('assembly')"
        >
          As an assembly
        </button>
      </footer>
    </section>
  </NModal>
</template>

<style scoped>
.sheet {
  width: min(720px, 94vw);
  max-height: 82vh;
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 14px 16px;
  border-radius: 12px;
  background: var(--panel);
  border: 1px solid var(--line);
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 12px;
}
.bar {
  display: flex;
  gap: 6px;
}
.bar .field {
  flex: 1;
}
.both {
  display: flex;
  gap: 10px;
  flex: 1;
  min-height: 0;
}
figure {
  flex: 0 0 250px;
  margin: 0;
  font-size: 12px;
}
figure img {
  width: 100%;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.what {
  display: flex;
  align-items: center;
  gap: 8px;
  flex: 1;
  min-width: 0;
  text-align: left;
}
.line.on {
  background: var(--accent-soft);
}
.list {
  flex: 1;
  min-width: 0;
  min-height: 120px;
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 4px 0;
}
.line {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 3px 10px;
  content-visibility: auto;
  contain-intrinsic-size: auto 26px;
}
.line:hover {
  background: var(--accent-soft);
}
.line .muted {
  margin-left: auto;
}
.fault {
  display: flex;
  gap: 6px;
  margin: 0;
  font-size: 12px;
  color: var(--bad);
}
footer {
  display: flex;
  justify-content: flex-end;
  align-items: center;
  gap: 8px;
}
footer .muted {
  margin-right: auto;
}
</style>
