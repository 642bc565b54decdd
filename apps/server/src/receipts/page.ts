import type { ReceiptReply } from '@thawline/contract';
import { clockTimecode } from '@thawline/core/time';
import { RECEIPT_WORDS } from '@thawline/project';
import { inPage, pageOf, pictureIn } from '../reports/page.js';

/** Pictures of a place, as JPEG: as it was asked for, and as it was written. */
export interface PlacePictures {
  readonly asked: Uint8Array | null;
  readonly written: Uint8Array | null;
}

/** A receipt to print, whole in itself. */
export function receiptPage(receipt: ReceiptReply, pictures: ReadonlyMap<number, PlacePictures>, printedAt: string): string {
  const row = (cells: readonly string[]): string => `<tr>${cells.map((c) => `<td>${c}</td>`).join('')}</tr>`;
  const lines = receipt.lines.map((line) =>
    row([
      inPage(RECEIPT_WORDS[line.what]),
      inPage(line.asked),
      inPage(line.measured),
      line.same ? 'same' : '<span class="look">look</span>',
    ]),
  );
  const picture = (of: { source: string; picture: number } | null): string => (of ? `${of.source} ${of.picture}` : 'black');
  const places = receipt.wrong.map((w) => {
    const shown = pictures.get(w.frame);
    const images = [
      ...(shown?.asked ? [pictureIn(shown.asked, 'Asked', `asked: ${picture(w.asked)}`)] : []),
      ...(shown?.written
        ? [pictureIn(shown.written, 'Written', `written: ${w.shows === null ? 'none of those near by' : picture(w.shown)}`)]
        : []),
    ];
    const at = clockTimecode(w.frame + receipt.range.from, receipt);
    const count = w.frames === 1 ? '' : `, ${w.frames} frames`;
    return `<p><b>Frame ${at}</b>${count}: ${inPage(picture(w.asked))} was asked for, ${inPage(w.shows === null ? 'a picture that is none of those near by' : picture(w.shown))} is there.</p>${images.join('')}`;
  });
  const disk = { same: '', changed: 'The file on the disk was changed since.', missing: 'The file is no longer on the disk.' };
  const handed = receipt.deliveries.map((d) =>
    row([inPage(d.at.slice(0, 16).replace('T', ' ')), d.accepted ? 'accepted' : `refused: ${inPage(d.reasons.join(' '))}`]),
  );
  return pageOf(
    `${receipt.file}, receipt`,
    `<h1>${inPage(receipt.timeline)}</h1>
<p class="quiet">${inPage(receipt.file)}, ${receipt.bytes} bytes, ${inPage(receipt.formWords)}. Measured ${inPage(receipt.madeAt.slice(0, 16).replace('T', ' '))}, printed ${inPage(printedAt.slice(0, 16).replace('T', ' '))}.</p>
<p class="quiet">Fingerprint (SHA-256, first 40 digits) ${inPage(receipt.fingerprint)}. ${disk[receipt.disk]}</p>
<h2>${receipt.differs === 0 ? 'As asked' : `${receipt.differs} ${receipt.differs === 1 ? 'thing differs' : 'things differ'}`}</h2>
<table><tr><th></th><th>Asked</th><th>Measured</th><th></th></tr>${lines.join('\n')}</table>
${places.length > 0 ? `<h2>Where pictures differ</h2>${places.join('\n')}` : ''}
${receipt.alike > 0 ? `<p class="quiet">${receipt.alike} ${receipt.alike === 1 ? 'frame hardly differs' : 'frames hardly differ'} from a neighbour and cannot be told from it.</p>` : ''}
${handed.length > 0 ? `<h2>Handed over</h2><table>${handed.join('\n')}</table>` : ''}`,
  );
}
