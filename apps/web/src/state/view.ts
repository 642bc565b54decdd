import type { RemarkCode } from '@thawline/project';
import { create } from 'zustand';

export const ORDERS = [
  'added',
  'name',
  'stored',
  'measured',
  'true',
  'read',
  'runs',
  'size',
  'fields',
  'sound',
  'uses',
  'remark',
] as const;
export type SourceOrder = (typeof ORDERS)[number];

export interface SourceList {
  /** Keys of the rate groups that are shown; all when empty. */
  readonly rates: readonly string[];
  /** Only sources of which this stands out. */
  readonly remark: RemarkCode | null;
  readonly order: SourceOrder;
  /** Largest or last first. */
  readonly down: boolean;
  readonly grouped: boolean;
}

/** What only this browser knows. */
interface ViewState {
  /** Playhead in frames, by timeline. */
  readonly playheads: Readonly<Record<string, number>>;
  /** Pixels a frame on the lanes, by timeline; 0 fits the whole timeline in. */
  readonly zooms: Readonly<Record<string, number>>;
  /** Chosen sources, for actions on several. */
  readonly chosenSources: readonly string[];
  /** The timeline that was open last, for the rate chain and for coming back. */
  readonly lastTimeline: string | null;
  /** What of the sources is shown, and in which order. */
  readonly sourceList: SourceList;
  readonly setSourceList: (change: Partial<SourceList>) => void;
  readonly setPlayhead: (timeline: string, frame: number) => void;
  readonly setZoom: (timeline: string, zoom: number) => void;
  readonly setChosenSources: (ids: readonly string[]) => void;
  readonly setLastTimeline: (id: string) => void;
}

export const useView = create<ViewState>((set) => ({
  playheads: {},
  zooms: {},
  chosenSources: [],
  lastTimeline: null,
  sourceList: { rates: [], remark: null, order: 'added', down: false, grouped: false },
  setSourceList: (change) => set((s) => ({ sourceList: { ...s.sourceList, ...change } })),
  setPlayhead: (timeline, frame) => set((s) => ({ playheads: { ...s.playheads, [timeline]: frame } })),
  setZoom: (timeline, zoom) => set((s) => ({ zooms: { ...s.zooms, [timeline]: zoom } })),
  setChosenSources: (chosenSources) => set({ chosenSources }),
  setLastTimeline: (lastTimeline) => set({ lastTimeline }),
}));

/** Ids for what this browser makes. */
export function newId(): string {
  return crypto.randomUUID().replace(/-/g, '').slice(0, 16);
}
