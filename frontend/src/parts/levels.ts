/** The three levels of a verdict: a word and a shape of our own; the colour only repeats them. */
export const LEVELS = {
  go: { word: 'Holds', shape: 'M4 12h16M14 6l6 6-6 6' },
  care: { word: 'With care', shape: 'M3 15c3-8 6-8 9 0s6 8 9 0' },
  stop: { word: 'Does not hold', shape: 'M4 8h16M4 16h16' },
} as const
