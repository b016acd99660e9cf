// What every field of a step needs: its value, how to change it, what stands before the step.
import { computed } from 'vue'
import type { FieldView, Schemas, Step } from '../../api/client'
import { useDocument } from '../../document/store'
import { useEdited } from '../edited'

export function useField(props: { field: FieldView }) {
  const edited = useEdited()
  const doc = useDocument()
  const value = computed(() => edited.fields[props.field.name])
  const list = computed(() => (Array.isArray(value.value) ? (value.value as unknown[]) : []))
  const focused = computed(() => edited.focus === props.field.name)
  const before = computed<Step[]>(() => (doc.part?.steps ?? []).slice(0, edited.index))
  const report = (id: string): Schemas['StepView'] | undefined => doc.build?.steps.find((s) => s.id === id)
  const bad = computed(() => edited.error?.where?.includes(`field:${props.field.name}`))
  const set = (next: unknown): void => edited.set(props.field.name, next)
  return {
    edited,
    doc,
    value,
    list,
    focused,
    before,
    report,
    bad,
    id: `f-${props.field.name}`,
    set,
    /** What a control of the page says. */
    typed: (event: Event): void => set((event.target as HTMLInputElement | HTMLSelectElement).value),
    /** One of several, on or off. */
    toggle: (item: string): void => set(list.value.includes(item) ? list.value.filter((x) => x !== item) : [...list.value, item]),
    /** The clicks in the picture go into it, or no longer. */
    focus: (): void => {
      edited.focus = focused.value ? null : props.field.name
    },
  }
}
