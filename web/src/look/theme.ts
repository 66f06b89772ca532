import { createVuetify } from 'vuetify'
import 'vuetify/styles'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

const night = {
  dark: true,
  colors: {
    background: '#15191c',
    surface: '#1c2226',
    'surface-bright': '#262e33',
    primary: '#e2a93b',
    secondary: '#8fb3a6',
    error: '#ef8a72',
    warning: '#e2a93b',
    info: '#86aecb',
    success: '#9cc08b',
    'on-background': '#e8dfcf',
    'on-surface': '#e8dfcf',
    'on-primary': '#1d1708',
  },
}
const day = {
  dark: false,
  colors: {
    background: '#f2ede3',
    surface: '#fbf8f1',
    'surface-bright': '#ffffff',
    primary: '#8a5a00',
    secondary: '#2f6455',
    error: '#a8341a',
    warning: '#8a5a00',
    info: '#2c5f85',
    success: '#3d6b2c',
    'on-background': '#23262a',
    'on-surface': '#23262a',
    'on-primary': '#ffffff',
  },
}

export const vuetify = createVuetify({
  theme: { defaultTheme: localStorage.getItem('theme') ?? 'night', themes: { night, day } },
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  defaults: {
    VBtn: { variant: 'tonal', density: 'comfortable', rounded: 'md' },
    VTooltip: { openDelay: 500, location: 'bottom' },
  },
})

/** A colour of the theme, for what is painted. */
export const hexOf = (name: keyof typeof night.colors, dark: boolean): string =>
  (dark ? night : day).colors[name]

/** Dye colours of the sections, by letter; each section also carries its letter. */
const SECTION_COLORS = {
  night: ['#7d9fc9', '#d18a6a', '#a9b665', '#b993c4', '#d8b45c', '#72b3a4', '#c97f93', '#a59a86'],
  day: ['#39628f', '#9c4d2b', '#5f6d1c', '#76488a', '#8a6510', '#23705f', '#91405a', '#655a47'],
}

export function sectionColor(label: string, dark: boolean): string {
  const colors = dark ? SECTION_COLORS.night : SECTION_COLORS.day
  return colors[(label.charCodeAt(0) - 65 + 26) % colors.length]!
}
