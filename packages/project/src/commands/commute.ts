import type { Patch } from 'immer';
import type { Project, Timeline } from '../document/document.js';
import { clipEnd } from '../timing/mapping.js';
import { applyDifference, type Difference } from './apply.js';

/**
 * Steps of the history in another order. Two windows that edit one project each take back their own newest step; where another window's
 * steps came after it, the step is moved past them first. That works only where they touched different things: each thing of a document
 * (a source, a timeline's own settings, a clip, a mark, an alignment) counts by itself, and the document has to make sense in between.
 */
export type Commuted =
  | {
      readonly ok: true;
      /** The differences in their new order; applied one after the other they lead where the old ones led. */
      readonly steps: readonly Difference[];
    }
  | {
      readonly ok: false;
      /** Index of the step that touches the same, in the order given. */
      readonly by: number;
    };

/**
 * Moves the first of some done steps behind the others.
 * @param after the document with all of them done
 */
export function moveStepLast(after: Project, steps: readonly Difference[]): Commuted {
  const states: Project[] = [after];
  for (const step of [...steps].reverse()) states.unshift(applyDifference(states[0] as Project, step.backward));
  const first = touchedBetween(states[0] as Project, states[1] as Project);
  const moved: Difference[] = [];
  let now = states[0] as Project;
  for (let i = 1; i < steps.length; i++) {
    const next = withChangesOf(now, states[i] as Project, states[i + 1] as Project, first);
    if (!next) return { ok: false, by: i };
    moved.push(differenceBetween(now, next));
    now = next;
  }
  return { ok: true, steps: [...moved, differenceBetween(now, after)] };
}

/**
 * Moves the last of some undone steps before the others.
 * @param before the document with none of them done
 */
export function moveStepFirst(before: Project, steps: readonly Difference[]): Commuted {
  const states: Project[] = [before];
  for (const step of steps) states.push(applyDifference(states.at(-1) as Project, step.forward));
  const end = states.at(-1) as Project;
  const last = touchedBetween(states.at(-2) as Project, end);
  for (let i = 0; i < steps.length - 1; i++)
    if (meet(touchedBetween(states[i] as Project, states[i + 1] as Project), last)) return { ok: false, by: i };
  let now = withChangesOf(before, states.at(-2) as Project, end, new Set());
  if (!now) return { ok: false, by: 0 };
  const moved = [differenceBetween(before, now)];
  for (let i = 0; i < steps.length - 1; i++) {
    const next: Project | null =
      i === steps.length - 2 ? end : withChangesOf(now, states[i] as Project, states[i + 1] as Project, last);
    if (!next) return { ok: false, by: i };
    moved.push(differenceBetween(now, next));
    now = next;
  }
  return { ok: true, steps: moved };
}

/** Every thing of a document under a name of its own. */
function thingsOf(project: Project): Map<string, unknown> {
  const things = new Map<string, unknown>([['name', project.name]]);
  for (const source of project.sources) things.set(`source ${source.id}`, source);
  for (const alignment of project.alignments) things.set(`alignment ${alignment.aId} ${alignment.bId}`, alignment);
  for (const timeline of project.timelines) {
    const { clips, marks, ...own } = timeline;
    things.set(`timeline ${timeline.id}`, own);
    for (const clip of clips) things.set(`clip ${timeline.id} ${clip.id}`, clip);
    for (const mark of marks) things.set(`mark ${timeline.id} ${mark.id}`, mark);
  }
  return things;
}

function touchedBetween(before: Project, after: Project): Set<string> {
  const [a, b] = [thingsOf(before), thingsOf(after)];
  const keys = [...new Set([...a.keys(), ...b.keys()])];
  return new Set(keys.filter((key) => !same(a.get(key), b.get(key))));
}

function same(a: unknown, b: unknown): boolean {
  return a === b || JSON.stringify(a) === JSON.stringify(b);
}

function meet(a: ReadonlySet<string>, b: ReadonlySet<string>): boolean {
  return [...a].some((key) => b.has(key));
}

/** A document with what another one gained and lost; null where that touches something of `not`, or would make no sense. */
function withChangesOf(base: Project, before: Project, after: Project, not: ReadonlySet<string>): Project | null {
  const touched = touchedBetween(before, after);
  if (meet(touched, not)) return null;
  const { name, sources, alignments, timelines } = after;
  const is = (key: string): boolean => touched.has(key);
  const merged: Project = {
    ...base,
    name: is('name') ? name : base.name,
    sources: merge(base.sources, sources, (s) => is(`source ${s.id}`)),
    alignments: merge(base.alignments, alignments, (x) => is(`alignment ${x.aId} ${x.bId}`)),
    timelines: merge(base.timelines, timelines, (t) => is(`timeline ${t.id}`)).map((t): Timeline => {
      const changed = timelines.find((other) => other.id === t.id);
      const own = base.timelines.find((other) => other.id === t.id);
      if (!changed || !own) return t;
      return {
        ...t,
        clips: merge(own.clips, changed.clips, (c) => is(`clip ${t.id} ${c.id}`)),
        marks: merge(own.marks, changed.marks, (m) => is(`mark ${t.id} ${m.id}`)),
      };
    }),
  };
  return makesSense(merged) ? merged : null;
}

/** The things of a list, those that were changed as they are in the other one: replaced, added at the end, or left out. */
function merge<T>(base: readonly T[], changed: readonly T[], isChanged: (thing: T) => boolean): T[] {
  const untouched = base.filter((thing) => !isChanged(thing));
  const now = changed.filter(isChanged);
  if (now.length === 0 && untouched.length === base.length) return base as T[];
  // Where nothing came or went, each keeps its place.
  if (untouched.length + now.length === base.length && base.length === changed.length)
    return base.map((thing, i) => (isChanged(thing) ? (changed[i] as T) : thing));
  return [...untouched, ...now];
}

/** Whether every clip has its source and its lane to itself, and every alignment both of its sources. */
function makesSense({ sources, timelines, alignments }: Project): boolean {
  const ids = new Set([...sources, ...timelines].map((s) => s.id));
  if (ids.size !== sources.length + timelines.length) return false;
  if (alignments.some((x) => !ids.has(x.aId) || !ids.has(x.bId))) return false;
  return timelines.every(({ lanes, clips }) => {
    const ends = new Map(lanes.map((lane) => [lane.id, 0]));
    for (const clip of [...clips].sort((a, b) => a.start - b.start)) {
      const end = ends.get(clip.laneId);
      if (end === undefined || clip.start < end || !ids.has(clip.sourceId)) return false;
      ends.set(clip.laneId, clipEnd(clip));
    }
    return true;
  });
}

/** Both ways between two documents, by the parts of them that differ. */
export function differenceBetween(before: Project, after: Project): Difference {
  return { forward: patchesTo(before, after), backward: patchesTo(after, before) };
}

function patchesTo(before: Project, after: Project): Patch[] {
  const patches: Patch[] = [];
  for (const key of ['name', 'sources', 'alignments'] as const)
    if (!same(before[key], after[key])) patches.push({ op: 'replace', path: [key], value: after[key] });
  const alike =
    before.timelines.length === after.timelines.length && before.timelines.every((t, i) => t.id === after.timelines[i]?.id);
  if (!alike) return [...patches, { op: 'replace', path: ['timelines'], value: after.timelines }];
  for (const [i, timeline] of after.timelines.entries())
    if (!same(before.timelines[i], timeline)) patches.push({ op: 'replace', path: ['timelines', i], value: timeline });
  return patches;
}
