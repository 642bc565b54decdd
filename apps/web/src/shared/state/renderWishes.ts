import { formSchema, type RenderForm, type Timeline } from '@thawline/project';
import { create } from 'zustand';

/** What of a timeline is rendered. */
export type RenderScope = 'all' | 'range' | 'clip';

/** What this browser asks of the next render. */
interface AskedState {
  readonly form: RenderForm;
  readonly part: RenderScope;
  /** As it is typed; empty: one is made of the timeline's. */
  readonly name: string;
  readonly folder: string | null;
  readonly change: (change: Partial<RenderForm>) => void;
  readonly set: (change: Partial<Pick<AskedState, 'form' | 'part' | 'name' | 'folder'>>) => void;
}

export const useRenderWishes = create<AskedState>((set) => ({
  form: formSchema.parse({}),
  part: 'all',
  name: '',
  folder: null,
  change: (change) => set((s) => ({ form: { ...s.form, ...change } })),
  set: (change) => set(change),
}));

/** The part as the server is asked for it; all of it where the timeline has no such part. */
export function renderScopeOf(
  timeline: Timeline,
  part: RenderScope,
  clipId: string | undefined,
): { readonly range: boolean; readonly clipId: string | null; readonly frames: { from: number; to: number } | null } {
  const clip = timeline.clips.find((c) => c.id === clipId);
  if (part === 'clip' && clip)
    return { range: false, clipId: clip.id, frames: { from: clip.start, to: clip.start + clip.length } };
  if (part === 'range' && timeline.range) return { range: true, clipId: null, frames: timeline.range };
  return { range: false, clipId: null, frames: null };
}
