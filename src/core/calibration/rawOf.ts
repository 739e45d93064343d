/**
 * What a part gave before its calibration, in its own unit, from a published value: the way back through
 * `published = (gain · raw + offset) · scale`. `scale` leads from the part's unit to the published one.
 */
export const rawOf = (published: number, scale: number, { gain, offset }: { gain: number; offset: number }): number =>
  (published / scale - offset) / gain
