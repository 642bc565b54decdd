import { type Colour, type Encoding, settledColour } from '@thawline/core/picture';
import { filesOf, pixelFormatOf, type SettledForm } from '@thawline/project';
import type { Look, RenderInput } from '../compose/input.js';

/** Tags of a render's colours, settled. */
export type RenderColour = Encoding & Pick<Colour, 'primaries' | 'transfer'>;

/** What a timeline's sources do not agree in is brought to this, by the frame's height as players take it. */
function common(height: number): Encoding {
  return settledColour(undefined, height);
}

/** Colours of a render: those of its sources where they agree, so that nothing is converted; else what is usual for its size. */
export function colourFor(input: RenderInput): RenderColour {
  const { height } = input.timeline;
  const probes = filesOf(input.project, input.timeline, input.range ?? null)
    .filter((s) => s.kind !== 'sound')
    .map((s) => input.files[s.mediaId]?.probe)
    // What is stored as red, green and blue has no matrix of its own to keep.
    .filter((p) => p !== undefined && /^(yuv|nv)/.test(p.pixelFormat));
  const settled = probes.map((p) => settledColour(p?.colour, p?.height ?? height));
  const [first] = settled;
  const agree = first !== undefined && settled.every((e) => e.matrix === first.matrix && e.range === first.range);
  const encoding = agree ? first : common(height);
  const same = (what: 'primaries' | 'transfer'): string | null => {
    const [one = null, ...others] = new Set(probes.map((p) => p?.colour?.[what] ?? null));
    return others.length === 0 ? one : null;
  };
  return { ...encoding, primaries: same('primaries'), transfer: same('transfer') };
}

/** What frames of a form are composed as. */
export function lookFor(form: Pick<SettledForm, 'kind' | 'codec' | 'depth'>, colour: Encoding): Look {
  const { matrix, range } = colour;
  return { pixelFormat: pixelFormatOf(form), colour: { matrix, range } };
}
