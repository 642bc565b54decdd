import { create } from 'zustand';

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
  setPlayhead: (timeline, frame) => set((s) => ({ playheads: { ...s.playheads, [timeline]: frame } })),
  setZoom: (timeline, zoom) => set((s) => ({ zooms: { ...s.zooms, [timeline]: zoom } })),
  setChosenSources: (chosenSources) => set({ chosenSources }),
  setLastTimeline: (lastTimeline) => set({ lastTimeline }),
}));

/** Ids for what this browser makes. */
export function newId(): string {
  return crypto.randomUUID().replace(/-/g, '').slice(0, 16);
}
