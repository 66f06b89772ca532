/// <reference types="vite/client" />
declare module 'vuetify/styles'
declare module '@fontsource-variable/inter'
