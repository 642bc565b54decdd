/** Every shortcut there is: the sheet under "?" and the bindings both come from here. */
export const SHORTCUTS = {
  undo: { keys: 'mod+z', shows: 'Ctrl Z', does: 'Undo', where: 'Everywhere' },
  redo: { keys: 'mod+shift+z', shows: 'Ctrl Shift Z', does: 'Redo', where: 'Everywhere' },
  shortcuts: { keys: '?', shows: '?', does: 'This sheet', where: 'Everywhere' },
  nextRow: { keys: 'down', shows: '\u2193', does: 'Next source', where: 'Sources' },
  previousRow: { keys: 'up', shows: '\u2191', does: 'Previous source', where: 'Sources' },
  chooseDown: { keys: 'shift+down', shows: 'Shift \u2193', does: 'Choose on to the next', where: 'Sources' },
  chooseUp: { keys: 'shift+up', shows: 'Shift \u2191', does: 'Choose on to the previous', where: 'Sources' },
  pageDown: { keys: 'pagedown', shows: 'PageDown', does: 'A page on', where: 'Sources' },
  pageUp: { keys: 'pageup', shows: 'PageUp', does: 'A page back', where: 'Sources' },
  firstRow: { keys: 'home', shows: 'Home', does: 'First source', where: 'Sources' },
  lastRow: { keys: 'end', shows: 'End', does: 'Last source', where: 'Sources' },
  choose: { keys: 'space', shows: 'Space', does: 'Choose it, or not', where: 'Sources' },
  chooseAll: { keys: 'mod+a', shows: 'Ctrl A', does: 'Choose all that are shown', where: 'Sources' },
  chooseNone: { keys: 'escape', shows: 'Esc', does: 'Choose none', where: 'Sources' },
  readAt: { keys: 'r', shows: 'R', does: 'Read at another rate', where: 'Sources' },
  back: { keys: 'left', shows: '\u2190', does: 'One frame or picture back', where: 'Timelines, Retime, Align, Check' },
  on: { keys: 'right', shows: '\u2192', does: 'One frame or picture on', where: 'Timelines, Retime, Align, Check' },
  backSecond: { keys: 'shift+left', shows: 'Shift \u2190', does: 'One second back', where: 'Timelines, Retime, Check' },
  onSecond: { keys: 'shift+right', shows: 'Shift \u2192', does: 'One second on', where: 'Timelines, Retime, Check' },
  first: { keys: 'home', shows: 'Home', does: 'To the start', where: 'Timelines, Retime, Check' },
  last: { keys: 'end', shows: 'End', does: 'To the end', where: 'Timelines, Retime, Check' },
  tieHere: { keys: 't', shows: 'T', does: 'Tie both recordings here', where: 'Align' },
  nextTie: { keys: 'n', shows: 'N', does: 'Next tie', where: 'Align' },
  previousTie: { keys: 'shift+n', shows: 'Shift N', does: 'Tie before', where: 'Align' },
  untie: { keys: 'delete', shows: 'Delete', does: 'Take the chosen tie away', where: 'Align' },
  earlierMs: {
    keys: 'alt+left',
    shows: 'Alt \u2190',
    does: 'Chosen tie a millisecond earlier in the second recording',
    where: 'Align',
  },
  laterMs: { keys: 'alt+right', shows: 'Alt \u2192', does: 'A millisecond later', where: 'Align' },
  nextFinding: { keys: 'f', shows: 'F', does: 'Next hitch, hold or jump', where: 'Timelines, Check' },
  previousFinding: { keys: 'shift+f', shows: 'Shift F', does: 'Previous one', where: 'Timelines, Check' },
  correct: { keys: 'c', shows: 'C', does: 'Call the picture held or new by hand, or leave it to the check', where: 'Check' },
  flip: { keys: 'x', shows: 'X', does: 'Flip between the picture and the one before', where: 'Check' },
  leastSure: { keys: 'u', shows: 'U', does: 'Least sure picture, then the next', where: 'Retime' },
  takeNearest: { keys: 'k', shows: 'K', does: 'Take the nearest picture for this frame, or make it again', where: 'Retime' },
  takeBlend: { keys: 'l', shows: 'L', does: 'Take a blend for this frame, or make it again', where: 'Retime' },
  nudgeBack: { keys: 'alt+left', shows: 'Alt \u2190', does: 'Move the clip a frame earlier', where: 'Timelines' },
  nudgeOn: { keys: 'alt+right', shows: 'Alt \u2192', does: 'Move the clip a frame later', where: 'Timelines' },
  laneUp: { keys: 'alt+up', shows: 'Alt \u2191', does: 'Move the clip a lane up', where: 'Timelines' },
  laneDown: { keys: 'alt+down', shows: 'Alt \u2193', does: 'Move the clip a lane down', where: 'Timelines' },
  headEarlier: {
    keys: 'shift+alt+left',
    shows: 'Shift Alt \u2190',
    does: "Pull the clip's head out a frame",
    where: 'Timelines',
  },
  headLater: { keys: 'shift+alt+right', shows: 'Shift Alt \u2192', does: "Cut a frame off the clip's head", where: 'Timelines' },
  tailEarlier: { keys: 'ctrl+alt+left', shows: 'Ctrl Alt \u2190', does: "Cut a frame off the clip's tail", where: 'Timelines' },
  tailLater: { keys: 'ctrl+alt+right', shows: 'Ctrl Alt \u2192', does: "Pull the clip's tail out a frame", where: 'Timelines' },
  play: { keys: 'space', shows: 'Space', does: 'Play, or stop', where: 'Timelines, Retime' },
  faster: { keys: 'v', shows: 'V', does: 'View faster, then again at half speed', where: 'Timelines' },
  inHere: { keys: 'b', shows: 'B', does: 'In here: begin', where: 'Timelines, Check' },
  outHere: { keys: 'e', shows: 'E', does: 'Out after this frame: end', where: 'Timelines, Check' },
  noRange: { keys: 'shift+b', shows: 'Shift B', does: 'Clear in and out', where: 'Timelines' },
  split: { keys: 'slash', shows: '/', does: 'Split the chosen clips here, or all under the playhead', where: 'Timelines' },
  slipBack: { keys: 'comma', shows: ',', does: 'Slip: a picture earlier, same place', where: 'Timelines' },
  slipOn: { keys: 'period', shows: '.', does: 'Slip: a picture later, same place', where: 'Timelines' },
  copy: { keys: 'mod+c', shows: 'Ctrl C', does: 'Copy clips', where: 'Timelines' },
  cut: { keys: 'mod+x', shows: 'Ctrl X', does: 'Copy clips and take them off', where: 'Timelines' },
  paste: { keys: 'mod+v', shows: 'Ctrl V', does: 'Paste at the playhead, in real time', where: 'Timelines' },
  allClips: { keys: 'mod+a', shows: 'Ctrl A', does: 'Choose all clips', where: 'Timelines' },
  nextClip: { keys: 'n', shows: 'N', does: 'Choose the next clip', where: 'Timelines' },
  previousClip: { keys: 'shift+n', shows: 'Shift N', does: 'Choose the clip before', where: 'Timelines' },
  noClips: { keys: 'escape', shows: 'Esc', does: 'Choose none', where: 'Timelines' },
  goTo: { keys: 'g', shows: 'G', does: 'Go to a typed frame or timecode', where: 'Timelines' },
  remove: { keys: 'delete', shows: 'Delete', does: 'Take the clip off the timeline', where: 'Timelines' },
  closer: { keys: 'shift+up', shows: 'Shift \u2191', does: 'Look closer', where: 'Timelines' },
  wider: { keys: 'shift+down', shows: 'Shift \u2193', does: 'See more', where: 'Timelines' },
  weaveCloser: { keys: 'shift+w', shows: 'Shift W', does: 'Weave closer', where: 'Timelines' },
  weaveWider: { keys: 'w', shows: 'W', does: 'See more of the weave', where: 'Timelines' },
} as const satisfies Record<string, { keys: string; shows: string; does: string; where: string }>;

export type ShortcutName = keyof typeof SHORTCUTS;

const NAMES: Readonly<Record<string, string>> = {
  ArrowDown: 'down',
  ArrowUp: 'up',
  ArrowLeft: 'left',
  ArrowRight: 'right',
  ' ': 'space',
};

/** The first of these shortcuts that a key press is, for what listens only while it has the focus; null when none. */
export function pressed<N extends ShortcutName>(
  event: { key: string; shiftKey: boolean; ctrlKey: boolean; metaKey: boolean; altKey: boolean },
  names: readonly N[],
): N | null {
  const parts = [
    ...(event.ctrlKey || event.metaKey ? ['mod'] : []),
    ...(event.shiftKey ? ['shift'] : []),
    ...(event.altKey ? ['alt'] : []),
    NAMES[event.key] ?? event.key.toLowerCase(),
  ];
  return names.find((name) => keysOf(name) === parts.join('+')) ?? null;
}

export function keysOf(name: ShortcutName): string {
  return SHORTCUTS[name].keys;
}
