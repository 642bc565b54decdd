/** What a receipt tells of a rendered file, line by line. */
export const RECEIPT_WHAT = [
  'rate',
  'frames',
  'length',
  'timing',
  'size',
  'coding',
  'colour',
  'light',
  'alpha',
  'fields',
  'order',
  'timecode',
  'sound',
  'peak',
  'sync',
  'held',
  'hitches',
  'pictures',
] as const;
export type ReceiptWhat = (typeof RECEIPT_WHAT)[number];

/** The lines' names, on screen and on paper. */
export const RECEIPT_WORDS: Record<ReceiptWhat, string> = {
  rate: 'Rate',
  frames: 'Frames',
  length: 'Length',
  timing: 'Timing',
  size: 'Size',
  coding: 'Coding',
  colour: 'Colour',
  light: 'Mastering display, light level',
  alpha: 'Transparency',
  fields: 'Fields, as the file says',
  order: 'Fields, as its pictures show',
  timecode: 'Timecode',
  sound: 'Sound',
  peak: 'Peak of the sound',
  sync: 'Sound against picture',
  held: 'Held pictures not in the edit',
  hitches: 'Hitches not in the edit',
  pictures: 'Which picture each frame shows',
};
