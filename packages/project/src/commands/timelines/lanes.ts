import type { Clip, Lane, Timeline } from '../../document/document.js';
import { Refused } from '../../refusals/guards.js';
import { clipEnd } from '../../timing/mapping.js';

/** Lanes as they are to be; those with clips on them cannot go, and none changes its kind. */
export function changeLanes(timeline: Timeline, lanes: readonly Lane[]): void {
  const ids = new Set(lanes.map((l) => l.id));
  if (ids.size !== lanes.length) throw new Refused('id-taken', {});
  const kinds = new Map(lanes.map((l) => [l.id, l.kind]));
  for (const lane of timeline.lanes) {
    const used = timeline.clips.some((c) => c.laneId === lane.id);
    if (used && kinds.get(lane.id) !== lane.kind) throw new Refused('lane-in-use', { lane: lane.name });
  }
  if (!lanes.some((l) => l.kind === 'picture')) throw new Refused('no-lane-there', {});
  timeline.lanes = [...lanes.filter((l) => l.kind === 'picture'), ...lanes.filter((l) => l.kind === 'sound')];
}

/** The lane so many above (for sound: below) the wanted one if it has room there, else a new one. */
export function freeLane(
  timeline: Timeline,
  {
    kind,
    laneId,
    by,
    clips,
    newId,
  }: {
    readonly kind: Lane['kind'];
    readonly laneId: string;
    readonly by: number;
    readonly clips: readonly Clip[];
    readonly newId: string;
  },
): string {
  const kin = timeline.lanes.filter((l) => l.kind === kind);
  for (const lane of kin.slice(
    Math.max(
      0,
      kin.findIndex((l) => l.id === laneId),
    ) + by,
  )) {
    const taken = timeline.clips.filter((c) => c.laneId === lane.id);
    if (clips.every((c) => taken.every((t) => clipEnd(t) <= c.start || t.start >= clipEnd(c)))) return lane.id;
  }
  const name = `${kind === 'picture' ? 'Picture' : 'Sound'} ${kin.length + 1}`;
  changeLanes(timeline, [...timeline.lanes, { id: newId, kind, name, kept: null }]);
  return newId;
}
