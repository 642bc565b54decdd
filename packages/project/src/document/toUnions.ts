import type { Patch } from 'immer';

/**
 * The step from format 2 to 3: a source has the keys of its kind alone, where it had `null` (of sound alone 0 and '') for those of the
 * others; a reading has `held` where pictures are left out and nowhere else; a timeline's range ends after it begins; a clip that stands
 * still has no curve.
 */

type Json = Readonly<Record<string, unknown>>;

function isRecord(value: unknown): value is Json {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

const TIMED = ['stored', 'measured', 'variable', 'seconds'];
const PICTURED = ['width', 'height', 'pixelFormat', 'fields'];
/** Keys that a source of a kind lost. */
const LACKS: Readonly<Record<string, readonly string[]>> = {
  film: ['numbers'],
  sequence: TIMED,
  still: [...TIMED, 'numbers'],
  sound: ['stored', 'measured', 'variable', ...PICTURED, 'numbers'],
};
/** Of these `null` says nothing any more, whatever the kind. */
const NEVER_NULL = ['stored', 'measured', 'seconds', 'numbers'];

function reading(value: unknown): unknown {
  if (!isRecord(value) || !('pictures' in value)) return value;
  const { held, ...rest } = value;
  return value.pictures === 'new' || value.pictures === 'rebuilt' ? { ...rest, held: held ?? [] } : rest;
}

function source(value: unknown): unknown {
  if (!isRecord(value)) return value;
  const gone = LACKS[String(value.kind)] ?? [];
  const kept = Object.entries(value).filter(([key, of]) => !gone.includes(key) && !(of === null && NEVER_NULL.includes(key)));
  return { ...Object.fromEntries(kept), readAt: reading(value.readAt) };
}

function clip(value: unknown): unknown {
  if (!isRecord(value)) return value;
  const cut = isRecord(value.cut) ? { ...value.cut, readAt: reading(value.cut.readAt) } : value.cut;
  return { ...value, cut, ...(value.fit === 'freeze' ? { curve: null } : {}) };
}

function range(value: unknown): unknown {
  return isRecord(value) && Number(value.to) <= Number(value.from) ? null : value;
}

const each = (value: unknown, change: (one: unknown) => unknown): unknown => (Array.isArray(value) ? value.map(change) : value);

function timeline(value: unknown): unknown {
  return isRecord(value) ? { ...value, range: range(value.range), clips: each(value.clips, clip) } : value;
}

export function documentToUnions(document: unknown): unknown {
  if (!isRecord(document)) return document;
  return { ...document, sources: each(document.sources, source), timelines: each(document.timelines, timeline) };
}

/** By what a path leads to: /sources, /sources/3, /sources/3/readAt, /timelines/0/clips/7/cut … */
function valueAt([list, index, key, inner, part, ...deeper]: Patch['path'], value: unknown): unknown {
  if (deeper.length > 0) return part === 'cut' && deeper[0] === 'readAt' ? reading(value) : value;
  if (list === 'sources') {
    if (index === undefined) return each(value, source);
    if (key === undefined) return source(value);
    return key === 'readAt' && inner === undefined ? reading(value) : value;
  }
  if (list !== 'timelines') return value;
  if (index === undefined) return each(value, timeline);
  if (key === undefined) return timeline(value);
  if (key === 'range' && inner === undefined) return range(value);
  if (key !== 'clips') return value;
  if (inner === undefined) return each(value, clip);
  if (part === undefined) return clip(value);
  return part === 'cut' && isRecord(value) ? { ...value, readAt: reading(value.readAt) } : value;
}

export function patchesToUnions(patches: readonly Patch[]): readonly Patch[] {
  return patches.map((patch) => {
    const [list, , key, ...deeper] = patch.path;
    const nothing = list === 'sources' && deeper.length === 0 && NEVER_NULL.includes(String(key)) && patch.value === null;
    if (nothing) return { op: 'remove', path: patch.path };
    return 'value' in patch ? { ...patch, value: valueAt(patch.path, patch.value) } : patch;
  });
}
