// What checks say, in signs and words, wherever they are told.
import type { Schemas } from '../api/client'

export type State = Schemas['CheckView']['state']
interface Said {
  icon: string
  word: string
}
const SAID: Record<State, Said> = {
  holds: { icon: 'check', word: 'holds' },
  fails: { icon: 'cross', word: 'fails' },
  running: { icon: 'clock', word: 'running' },
  old: { icon: 'clock', word: 'out of date' },
  trouble: { icon: 'alert', word: 'cannot tell' },
}
export const said = (state: State | undefined): Said => SAID[state ?? 'running']
export const sign = (relation: string | undefined): string => (relation === 'at_least' ? '≥' : '≤')
/** The class of a state: what only should hold is no fault. */
export const tone = (state: State | undefined, severity: string | undefined): string =>
  state === 'fails' && severity === 'should' ? 'is-doubt' : `is-${state ?? 'running'}`
/** What was found, or what was before something changed. */
export const foundOf = (view: { shown: string | null; was?: string | null } | undefined): string =>
  view?.shown ?? (view?.was ? `was ${view.was}` : '…')
