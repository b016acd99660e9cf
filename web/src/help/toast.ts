// A refusal at the foot of the window, with a way to the page of its message.
import type { MessageApi } from 'naive-ui'
import { h } from 'vue'
import type { Schemas } from '../api/client'
import Why from './Why.vue'

export function refuse(message: MessageApi, report: Pick<Schemas['Report'], 'text' | 'code'>): void {
  message.error(() => h('span', [report.text, ' ', h(Why, { code: report.code ?? '' })]), { duration: 8000, closable: true })
}
