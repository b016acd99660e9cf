<script setup lang="ts">
import { useDocument } from '../document/store'
import { useHelp } from '../help/store'
import Icon from '../ui/Icon.vue'

const doc = useDocument()
const help = useHelp()
const time = (at: number): string => new Date(at).toLocaleTimeString([], { hour12: false })
</script>

<template>
  <table v-if="doc.messages.length" class="grid">
    <tbody>
      <tr v-for="m in doc.messages" :key="m.at + m.text">
        <td class="muted" style="width: 90px">{{ time(m.at) }}</td>
        <td style="width: 26px"><Icon :name="m.tone === 'bad' ? 'cross' : m.tone === 'good' ? 'check' : 'dot'" :size="15" /></td>
        <td>{{ m.text }}</td>
        <td style="width: 90px">
          <button v-if="m.code" class="btn small" @click="help.show(`message:${m.code}`)">Its page</button>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-else class="muted">Nothing to report. Refused edits, lost picks and other windows’ changes are told here.</p>
</template>
