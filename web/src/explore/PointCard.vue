<script setup lang="ts">
// One point that was tried: how it looks, what it weighs, what checks say; taken over on request.
import { said, sign, tone } from '../checks/words'
import type { State } from '../checks/words'
import { useDocument } from '../document/store'
import DocumentPicture from '../shelf/DocumentPicture.vue'
import { mass } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { shown } from '../ui/units'
import { type Row, useExplore } from './store'

defineProps<{ row: Row; title: string; usable?: boolean }>()
const doc = useDocument()
const explore = useExplore()
</script>

<template>
  <section class="point" data-testid="point-card">
    <DocumentPicture
      v-if="doc.view && row.state === 'ok'"
      :id="doc.view.id"
      class="look"
      :kind="doc.view.kind"
      :revision="doc.view.revision"
      :set="row.set"
    />
    <div>
      <b>{{ title }}</b>
      <p v-for="(formula, name) in row.set" :key="name" class="num">{{ name }} = {{ formula }}</p>
      <p v-if="row.state !== 'ok'" class="bad">{{ row.step ? `${row.step}: ` : '' }}{{ row.why }}</p>
      <template v-else>
        <p class="num">
          {{ mass(row.mass ?? 0) }}<span v-if="row.size" class="muted"> · {{ row.size.map((s) => shown('length', s)).join(' × ') }}</span>
        </p>
        <p v-for="c in row.checks" :key="c.id" class="num">
          <span :class="tone(c.state as State, c.severity)"
            ><Icon :name="said(c.state === 'open' ? 'old' : (c.state as State)).icon" :size="13"
          /></span>
          {{ c.name }} <span class="muted">{{ c.shown ?? 'asked when looked at' }} ({{ sign(c.relation) }} {{ c.limit ?? '' }})</span>
        </p>
      </template>
      <button v-if="usable && Object.keys(row.set).length" class="btn small main" data-testid="use-values" @click="explore.use(row.set)">
        Use these values
      </button>
    </div>
  </section>
</template>

<style scoped>
.point {
  display: flex;
  gap: 10px;
  align-items: flex-start;
  min-width: 220px;
}
.look {
  width: 130px;
  flex: none;
}
p {
  margin: 1px 0;
  font-size: 12.5px;
}
.bad {
  color: var(--bad);
  max-width: 260px;
}
.btn {
  margin-top: 6px;
}
p svg {
  vertical-align: -2px;
}
</style>
