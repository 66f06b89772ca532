"""The parts of what a beat sounds like, `Chart.features`: which columns, and how much each counts.

A beat is described in two halves. Each part is in units of how far neighbouring beats lie apart in it, times its weight.
"""

N_BANDS, N_PITCH_CLASSES, N_REGISTERS, N_TONES = 16, 12, 3, 60
N_SOUND = N_BANDS + N_PITCH_CLASSES + 1  # of each half: timbre, harmony and level
N_CELLS = N_REGISTERS * N_PITCH_CLASSES
SOUND_WEIGHT, NOTES_WEIGHT, COLOUR_WEIGHT = 1.0, 1.5, 1.2  # chosen on joins whose notes are known (bench/seams.py)
SOUND = slice(0, 2 * N_SOUND)
TIMBRE_HALVES = tuple([half * N_SOUND + k for k in (*range(N_BANDS), N_SOUND - 1)] for half in (0, 1))  # bands and level
HARMONY_HALVES = tuple([half * N_SOUND + N_BANDS + k for k in range(N_PITCH_CLASSES)] for half in (0, 1))
TIMBRE = (*TIMBRE_HALVES[0], *TIMBRE_HALVES[1])
NOTES = slice(SOUND.stop, SOUND.stop + 2 * N_CELLS)
COLOUR = slice(NOTES.stop, NOTES.stop + 2 * N_TONES)
