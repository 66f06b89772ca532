/** What a tempo or a map is taken along as. */
export const FORMS = [
  ['.mid', 'MIDI', 'Tempo map, metre, and the hits as markers'],
  ['.csv', 'Bars', 'A table of the bars with their timecodes (CSV)'],
  ['.wav', 'Click', 'A click as long as the picture, exact to the sample (WAV)'],
] as const
