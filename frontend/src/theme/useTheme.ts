/** Which of the three themes is on; kept in this browser. */
import { useLocalStorage } from '@vueuse/core'
import { theme as antTheme } from 'ant-design-vue'
import { computed, watchEffect } from 'vue'

export const THEMES = ['day', 'dusk', 'field'] as const
export type Theme = (typeof THEMES)[number]

const chosen = useLocalStorage<Theme>('wide-dusk-theme', 'dusk')

/** The component library's own tokens for each theme; the same colours as in tokens.css. */
const SEEDS: Record<Theme, Record<string, string>> = {
  dusk: {
    colorPrimary: '#f0a35e',
    colorBgBase: '#1e1934',
    colorBgElevated: '#241d3f',
    colorTextBase: '#f3eef8',
    colorError: '#ff9683',
    colorBorder: '#6a5f96',
    colorTextPlaceholder: '#a79dc2',
  },
  day: {
    colorPrimary: '#8c3f16',
    colorBgBase: '#fffdfa',
    colorTextBase: '#231b30',
    colorError: '#a32616',
    colorBorder: '#8f8375',
    colorTextPlaceholder: '#6a6172',
  },
  field: {
    colorPrimary: '#ff1810',
    colorBgBase: '#0a0000',
    colorTextBase: '#ff1810',
    colorError: '#ff1810',
    colorBorder: '#8a0000',
    colorTextPlaceholder: '#f51810',
    colorBgElevated: '#120000',
    colorBgContainer: '#0a0000',
    colorSuccess: '#ff1810',
    colorWarning: '#ff1810',
    colorInfo: '#ff1810',
    colorText: '#ff1810',
    colorTextSecondary: '#ff1810',
    colorTextTertiary: '#f51810',
    colorTextQuaternary: '#f51810',
  },
}

/** Text on a filled button. */
const ON_PRIMARY: Record<Theme, string> = { day: '#ffffff', dusk: '#1c1020', field: '#000000' }

export function useTheme() {
  watchEffect(() => document.documentElement.setAttribute('data-theme', chosen.value))
  const library = computed(() => ({
    components: {
      Button: { colorPrimary: SEEDS[chosen.value].colorPrimary, colorError: SEEDS[chosen.value].colorError },
    },
    algorithm: chosen.value === 'day' ? antTheme.defaultAlgorithm : antTheme.darkAlgorithm,
    token: {
      ...SEEDS[chosen.value],
      fontFamily: 'inherit',
      borderRadius: 8,
      fontSize: chosen.value === 'field' ? 16 : 14,
      colorTextLightSolid: ON_PRIMARY[chosen.value],
    },
  }))
  function next() {
    chosen.value = THEMES[(THEMES.indexOf(chosen.value) + 1) % THEMES.length] ?? 'dusk'
  }
  return { theme: chosen, library, next }
}
