import { FIELDS_PROVED } from '@thawline/core/truth';
import { type FormFields, type FormKind, fieldKindWords, isSeries } from '@thawline/project';
import { measureFields } from '../analyse/check.js';
import type { JobContext } from '../jobs/context.js';
import type { WrittenFile } from './closerLook.js';
import type { ReceiptLine } from './types.js';

/** Which field comes first: what the file says, and what its own pictures show. Nothing is told of whole pictures that are said to be such. */
export async function fieldLines(
  context: JobContext,
  { kind, fields }: { readonly kind: FormKind; readonly fields: FormFields | null },
  file: WrittenFile,
): Promise<ReceiptLine[]> {
  const { probe } = file;
  const says = probe.fields === 'progressive' ? 'whole pictures' : `${probe.fields} field first`;
  const asked = fields ? `${fields.order} field first` : 'whole pictures';
  if (isSeries(kind) || kind === 'wav' || (!fields && probe.fields === 'progressive')) return [];
  const flagged: ReceiptLine = { what: 'fields', asked, measured: says, same: says === asked };
  const found = fields && probe.kind === 'film' ? await measureFields(context, file) : null;
  if (!fields || !found) return [flagged];
  // Pictures whose fields are of one moment have no order: a clip of the timeline's own rate is no other.
  const against = found.first !== null && found.first !== fields.order && found.certainty >= FIELDS_PROVED;
  const measured = found.kind === 'none' ? 'fields of one moment' : fieldKindWords(found);
  return [flagged, { what: 'order', asked: fields.order, measured: `${measured}, by its pictures`, same: !against }];
}
