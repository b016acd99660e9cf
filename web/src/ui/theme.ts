// Light or dark: kept in the browser, starts light.
import { darkTheme, type GlobalThemeOverrides } from 'naive-ui'
import { computed, ref, watchEffect } from 'vue'

const KEY = 'vireo-theme'
export const dark = ref(localStorage.getItem(KEY) === 'dark')

watchEffect(() => {
  document.documentElement.dataset.theme = dark.value ? 'dark' : 'light'
  localStorage.setItem(KEY, dark.value ? 'dark' : 'light')
})

export const naiveTheme = computed(() => (dark.value ? darkTheme : null))
export const overrides = computed<GlobalThemeOverrides>(() => ({
  common: {
    fontFamily: "'IBM Plex Sans Variable', system-ui, sans-serif",
    primaryColor: dark.value ? '#6fbf9b' : '#2f7d5b',
    primaryColorHover: dark.value ? '#85cfae' : '#3a9069',
    primaryColorPressed: dark.value ? '#5aa884' : '#27694c',
    primaryColorSuppl: dark.value ? '#6fbf9b' : '#2f7d5b',
    textColorBase: dark.value ? '#e7ece8' : '#22312b',
    borderRadius: '6px',
    fontSize: '13px',
    fontSizeSmall: '12.5px',
  },
}))

/** A colour of the style sheet as it stands now. */
export function colour(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
}
