export interface Step {
  id: string
  name: string
  /** What the step will be for, while it is not there yet. */
  purpose: string
  built: boolean
}

/** The six steps, in working order. */
export const STEPS: Step[] = [
  {
    id: 'gather',
    name: 'Gather',
    purpose: 'correct what was heard in a track, trim its ends, search the library',
    built: true,
  },
  {
    id: 'spot',
    name: 'Spot',
    purpose: 'watch the picture and mark the moments the music must hit',
    built: true,
  },
  { id: 'fit', name: 'Fit', purpose: 'fit a track to its slot', built: true },
  {
    id: 'proof',
    name: 'Proof',
    purpose: 'listen to every seam and pass it, move it or forbid it',
    built: false,
  },
  { id: 'mix', name: 'Mix', purpose: 'set levels and fades, and dip the music under speech', built: false },
  {
    id: 'turnover',
    name: 'Turnover',
    purpose: 'hand over audio, edit list, tempo map, cue sheet and proof movie',
    built: false,
  },
]
