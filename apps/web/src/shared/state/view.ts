import type { Clipboard, RemarkCode } from '@thawline/project';
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

export const VIEWING_SPEEDS = [0.5, 1, 2, 4] as const;
export type ViewingSpeed = (typeof VIEWING_SPEEDS)[number];

/** What can stand behind pictures for looking at; squares: of two greys, as nothing else has them. */
export const BACKDROPS = ['black', 'grey', 'white', 'squares'] as const;
export type Backdrop = (typeof BACKDROPS)[number];

/** whole: as it is stored. view: as one who stands in it sees it. seam: stored, its left and right edge in the middle. */
export const AROUNDS = ['whole', 'view', 'seam'] as const;
export type Around = (typeof AROUNDS)[number];

type Settable = Pick<
  ViewState,
  | 'chosenClips'
  | 'clipboard'
  | 'viewingSpeed'
  | 'live'
  | 'snapping'
  | 'looping'
  | 'weaveZoom'
  | 'screen'
  | 'posing'
  | 'backdrop'
  | 'around'
>;

/** What only this browser knows. */
interface ViewState {
  /** Playhead in frames, by timeline. */
  readonly playheads: Readonly<Record<string, number>>;
  /** Pixels a frame on the lanes, by timeline; 0 fits the whole timeline in. */
  readonly zooms: Readonly<Record<string, number>>;
  /** Chosen sources, for actions on several. */
  readonly chosenSources: readonly string[];
  /** Chosen clips of the timeline that is open, beside the one in the address. */
  readonly chosenClips: readonly string[];
  readonly clipboard: Clipboard | null;
  /** How fast the player runs, for looking only: 1 is the timeline's rate. */
  readonly viewingSpeed: ViewingSpeed;
  /** The frame the player is at while it runs; null when it stands. */
  readonly live: number | null;
  readonly snapping: boolean;
  readonly looping: boolean;
  /** Pixels a frame in the weave; 0 fits the whole clip in. */
  readonly weaveZoom: number;
  /** Which of core's screens the display line simulates; -1 shows none. */
  readonly screen: number;
  /** The chosen clip is laid by hand: the viewer has handles, the panel numbers. */
  readonly posing: boolean;
  /** What the viewer shows where nothing is. */
  readonly backdrop: Backdrop;
  /** How a picture of all around is looked at. */
  readonly around: Around;
  readonly set: (change: Partial<Settable>) => void;
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
  chosenClips: [],
  clipboard: null,
  viewingSpeed: 1,
  live: null,
  snapping: true,
  looping: false,
  weaveZoom: 38,
  screen: 2,
  posing: false,
  backdrop: 'black',
  around: 'whole',
  set: (change) => set(change),
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
