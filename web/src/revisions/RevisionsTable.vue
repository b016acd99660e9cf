<script setup lang="ts">
// What was done to the open document, newest first; going back, naming, approving, branching off.
import { NDropdown } from 'naive-ui'
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { call, type Schemas } from '../api/client'
import { listen } from '../api/events'
import { turns } from '../api/newest'
import { useDocument } from '../document/store'
import DocumentPicture from '../shelf/DocumentPicture.vue'
import Icon from '../ui/Icon.vue'
import NameField from '../ui/NameField.vue'
import { compareAt } from './asked'
import MergePanel from './MergePanel.vue'
import { when } from './words'

type Row = Schemas['RevisionView']
const doc = useDocument()
const router = useRouter()
const found = shallowRef<Schemas['TimelineView'] | null>(null)
/** Older ones that were asked for. */
const older = shallowRef<{ rows: Row[]; more: boolean } | null>(null)
const aside = ref(false)
const naming = ref<{ number: number; text: string } | null>(null)
const branching = ref<{ revision: number; name: string } | null>(null)
const merging = ref<{ into: Schemas['DocumentRefView']; branch: Schemas['DocumentRefView'] } | null>(null)
const turn = turns()

async function load(): Promise<void> {
  const id = doc.view?.id
  if (!id) return
  const newest = turn()
  try {
    const answer = await call('get', '/api/documents/{id}/revisions', { path: { id } })
    if (!newest()) return
    found.value = answer
    older.value = null
  } catch (error) {
    if (newest()) doc.refused(error)
  }
}
watch(() => [doc.view?.id, doc.view?.revision], load, { immediate: true })
onUnmounted(listen((news) => ((news.kind === 'revisions' && news.id === doc.view?.id) || news.kind === 'shelf' ? void load() : undefined)))
async function more(): Promise<void> {
  const id = doc.view?.id
  const last = all.value.at(-1)
  if (!id || !last) return
  try {
    const answer = await call('get', '/api/documents/{id}/revisions', { path: { id }, query: { before: last.number } })
    older.value = { rows: [...(older.value?.rows ?? []), ...answer.revisions], more: answer.more }
  } catch (error) {
    doc.refused(error)
  }
}
const all = computed(() => [...(found.value?.revisions ?? []), ...(older.value?.rows ?? [])])
const rows = computed(() => all.value.filter((r) => aside.value || r.mine || r.version || r.approved))
const left = computed(() => all.value.filter((r) => !r.mine).length)
const hasMore = computed(() => older.value?.more ?? found.value?.more)

async function attempt(work: (id: string) => Promise<unknown>): Promise<void> {
  const id = doc.view?.id
  if (!id) return
  try {
    await work(id)
    await load()
  } catch (error) {
    doc.refused(error)
  }
}
const mark = (number: number, body: Partial<Schemas['Mark']>): Promise<void> =>
  attempt((id) =>
    call('put', '/api/documents/{id}/revisions/{revision}', { path: { id, revision: String(number) }, body: body as Schemas['Mark'] }),
  )
function keepName(): void {
  const n = naming.value
  naming.value = null
  if (n) void mark(n.number, { version: n.text.trim() || null })
}
const back = (r: Row): Promise<void> =>
  attempt(async (id) =>
    doc.taken(
      await call('post', '/api/documents/{id}/back', { path: { id }, body: { base: doc.view?.revision ?? 0, revision: r.number } }),
    ),
  )
async function branchOff(): Promise<void> {
  const b = branching.value
  if (!b?.name.trim()) return
  branching.value = null
  await attempt(async (id) => {
    const made = await call('post', '/api/documents/{id}/branches', { path: { id }, body: { name: b.name.trim(), revision: b.revision } })
    await router.push(`/d/${made.id}?drawer=revisions`)
  })
}
const menu = (r: Row): { key: string; label: string; disabled?: boolean }[] => {
  const now = r.number === found.value?.head
  return [
    { key: 'now', label: 'Compare with now', disabled: now },
    { key: 'last', label: 'Compare with the one before', disabled: r.parent === null },
    { key: 'back', label: 'Go back to this', disabled: now },
    { key: 'name', label: r.version ? 'Rename' : 'Name it' },
    { key: 'approve', label: r.approved ? 'Take approval off' : 'Approve' },
    { key: 'branch', label: 'Branch off here' },
  ]
}
function act(key: string, r: Row): void {
  const id = doc.view?.id ?? ''
  if (key === 'now') void router.push(compareAt(id, { revision: r.number }))
  else if (key === 'last') void router.push(compareAt(id, { revision: r.parent }, { revision: r.number }))
  else if (key === 'back') void back(r)
  else if (key === 'name') naming.value = { number: r.number, text: r.version ?? '' }
  else if (key === 'approve') void mark(r.number, { approved: !r.approved })
  else branching.value = { revision: r.number, name: `${doc.view?.document.name} try`.slice(0, 80) }
}
const self = computed<Schemas['DocumentRefView']>(() => ({
  id: doc.view?.id ?? '',
  name: doc.view?.document.name ?? '',
  kind: doc.view?.kind ?? '',
}))
</script>

<template>
  <div class="top">
    <template v-if="found?.origin">
      <span
        ><Icon name="branch" :size="14" /> Branch of <RouterLink :to="`/d/${found.origin.document}`">{{ found.origin.name }}</RouterLink> at
        r {{ found.origin.revision }}</span
      >
      <button
        class="btn small"
        data-testid="bring-back"
        @click="merging = { into: { id: found.origin.document, name: found.origin.name, kind: self.kind }, branch: self }"
      >
        Bring it back
      </button>
      <RouterLink
        class="btn small link"
        data-testid="compare-origin"
        :to="compareAt(self.id, { document: found.origin.document }, { document: self.id })"
        >Compare</RouterLink
      >
    </template>
    <span v-for="b in found?.branches" :key="b.id" class="branch">
      <Icon name="branch" :size="14" /> <RouterLink :to="`/d/${b.id}`">{{ b.name }}</RouterLink>
      <button class="btn small" :data-testid="`take-in-${b.id}`" @click="merging = { into: self, branch: b }">Take in</button>
    </span>
    <span
      v-if="found?.followers.length"
      class="muted"
      data-testid="followers"
      title="They have this document at its newest: a change here changes them"
      >Followed by
      <template v-for="(f, n) in found.followers" :key="f.id"
        >{{ n ? ', ' : '' }}<RouterLink :to="`/d/${f.id}`">{{ f.name }}</RouterLink></template
      ></span
    >
    <span class="grow" />
    <label v-if="left" class="muted"><input v-model="aside" type="checkbox" /> {{ left }} left aside by undo</label>
  </div>
  <MergePanel v-if="merging" :into="merging.into" :branch="merging.branch" @done="merging = null" />
  <form v-if="branching" class="asking" @submit.prevent="branchOff">
    Branch off at r {{ branching.revision }} as
    <input
      v-model="branching.name"
      class="field"
      aria-label="Name of the branch"
      maxlength="80"
      autofocus
      data-testid="branch-name"
      @keydown.stop
      @keydown.esc="branching = null"
    />
    <button class="btn small main" data-testid="make-branch">Branch off</button>
    <button type="button" class="btn small" @click="branching = null">Cancel</button>
  </form>
  <table class="grid">
    <tbody>
      <tr
        v-for="r in rows"
        :key="r.number"
        :class="{ now: r.number === found?.head, aside: !r.mine }"
        :data-testid="`revision-${r.number}`"
      >
        <td class="picture"><DocumentPicture :id="self.id" :kind="self.kind" :revision="r.number" :at="r.number" /></td>
        <td class="number num">r {{ r.number }}</td>
        <td>
          <NameField
            v-if="naming?.number === r.number"
            v-model="naming.text"
            label="Name of the revision"
            data-testid="revision-name"
            @keep="keepName()"
            @leave="naming = null"
          />
          <template v-else>
            <b v-if="r.version" class="version">{{ r.version }}</b>
            <span v-if="r.approved" class="approved" :title="`Approved ${when(r.approved)}`"
              ><Icon name="check" :size="13" /> approved</span
            >
            {{ r.words }}
          </template>
        </td>
        <td class="muted when">{{ r.number === found?.head ? 'now' : when(r.created) }}</td>
        <td style="width: 34px">
          <NDropdown trigger="click" placement="bottom-end" :options="menu(r)" @select="(k: string) => act(k, r)">
            <button
              class="icon-btn"
              :aria-label="`More for revision ${r.number}`"
              title="Compare, go back, name, approve, branch"
              :data-testid="`more-revision-${r.number}`"
            >
              <Icon name="more" :size="14" />
            </button>
          </NDropdown>
        </td>
      </tr>
    </tbody>
  </table>
  <button v-if="hasMore" class="btn small older" @click="more">Older</button>
</template>

<style scoped>
.top,
.asking {
  display: flex;
  align-items: center;
  gap: 10px;
  flex-wrap: wrap;
  min-height: 34px;
}
.top svg {
  vertical-align: -2px;
}
.top a {
  color: var(--accent);
  text-decoration: none;
}
.branch {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.grow {
  flex: 1;
}
.picture {
  width: 64px;
  padding-block: 2px;
}
.picture :deep(.picture) {
  margin: 0;
  width: 52px;
}
.number,
.when {
  white-space: nowrap;
  width: 1px;
}
.now .number {
  font-weight: 700;
  color: var(--accent);
}
.aside {
  opacity: 0.6;
}
.version {
  padding: 1px 7px;
  margin-right: 6px;
  border-radius: 5px;
  background: var(--chip);
}
.approved {
  margin-right: 6px;
  color: var(--up);
  font-weight: 600;
}
.approved svg {
  vertical-align: -2px;
}
.older {
  margin: 8px 0;
}
</style>
