<script setup lang="ts">
// What was proved of a member: a picture, mass and checks, or where and why it fails.
import { NPopover } from 'naive-ui'
import { computed } from 'vue'
import { useDocument } from '../document/store'
import DocumentPicture from '../shelf/DocumentPicture.vue'
import { mass } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { shown } from '../ui/units'
import type { Proved } from './store'

const props = defineProps<{ proved?: Proved }>()
const doc = useDocument()
const emit = defineEmits<{ go: [p: Proved] }>()
const fails = computed(() => props.proved?.checks.filter((c) => c.state === 'fails' || c.state === 'trouble') ?? [])
</script>

<template>
  <span v-if="!proved" class="muted">·</span>
  <span v-else class="proved" :class="{ old: proved.old }" data-testid="proved">
    <NPopover v-if="proved.state === 'ok'" trigger="hover" placement="left" style="padding: 6px">
      <template #trigger
        ><span class="good" :class="{ bad: fails.length }"
          ><Icon :name="fails.length ? 'alert' : 'check'" :size="14" /> {{ mass(proved.mass ?? 0)
          }}<template v-if="fails.length"> · {{ fails[0].name }} {{ fails[0].shown ?? '' }}</template></span
        ></template
      >
      <div class="card">
        <DocumentPicture
          v-if="doc.view"
          :id="doc.view.id"
          class="look"
          :kind="doc.view.document.kind"
          :revision="doc.view.revision"
          :member="proved.choice"
        />
        <p v-if="proved.size">{{ proved.size.map((s) => shown('length', s)).join(' × ') }}</p>
        <p v-for="c in proved.checks" :key="c.id" :class="{ bad: c.state === 'fails' || c.state === 'trouble' }">
          {{ c.name }}: {{ c.trouble ?? (c.state === 'open' ? 'asked when looked at' : `${c.shown} (${c.limit})`) }}
        </p>
      </div>
    </NPopover>
    <button
      v-else
      class="why"
      :title="`${proved.step}: ${proved.why}. Click to go there`"
      data-testid="go-wrong"
      @click="emit('go', proved)"
    >
      <Icon name="cross" :size="14" /> {{ proved.step ? `${proved.step}: ` : '' }}{{ proved.why }}
    </button>
    <span v-if="proved.old" class="muted" title="Something changed since">out of date</span>
  </span>
</template>

<style scoped>
.proved {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
.old > :first-child {
  opacity: 0.5;
}
.good {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  color: var(--up);
}
.bad,
.why {
  color: var(--bad);
}
.why {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  max-width: 300px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.look {
  width: 150px;
}
.card p {
  margin: 2px 0;
  font-size: 12px;
}
</style>
