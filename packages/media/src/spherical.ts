import { open } from 'node:fs/promises';
import type { PixelRange } from '@thawline/core/picture';
import { MediaError } from './port.js';

/**
 * Says in an MP4 or MOV that its pictures are of all around, equirectangular (Spherical Video V2, "sv3d" in the sample entry): FFmpeg writes that
 * from what it reads alone. Its index has to stand behind its pictures, as it does without faststart.
 * @param range of its luma, for files that are copied on into Matroska: MOV has no place for it, MP4's way of saying colours has
 */
export async function markSpherical(path: string, range: PixelRange | null = null): Promise<void> {
  const file = await open(path, 'r+');
  try {
    const { size } = await file.stat();
    const head = Buffer.alloc(16);
    let at = 0;
    while (at + 8 <= size) {
      await file.read(head, 0, 16, at);
      const box = boxOf(head, 0, size - at);
      if (box.type !== 'moov') {
        at += box.size;
        continue;
      }
      if (at + box.size !== size) throw new MediaError('encode-failed', 'the index does not stand at the end');
      const moov = Buffer.alloc(box.size);
      await file.read(moov, 0, box.size, at);
      const marked = withProjection(moov, range);
      await file.write(marked, 0, marked.length, at);
      return;
    }
    throw new MediaError('encode-failed', 'the file has no index');
  } finally {
    await file.close();
  }
}

interface FoundBox {
  readonly at: number;
  /** With its head. */
  readonly size: number;
  readonly head: number;
  readonly type: string;
}

/** @param rest bytes from there to the end of what holds it: a size of 0 means all of them */
function boxOf(bytes: Buffer, at: number, rest: number): FoundBox {
  const said = bytes.readUInt32BE(at);
  const type = bytes.toString('latin1', at + 4, at + 8);
  const size = said === 1 ? Number(bytes.readBigUInt64BE(at + 8)) : said === 0 ? rest : said;
  if (size < 8 || size > rest) throw new MediaError('encode-failed', 'the index is broken');
  return { at, size, head: said === 1 ? 16 : 8, type };
}

function childrenOf(bytes: Buffer, { at, size, head }: FoundBox): FoundBox[] {
  const found: FoundBox[] = [];
  for (let p = at + head; p + 8 <= at + size; ) {
    const box = boxOf(bytes, p, at + size - p);
    found.push(box);
    p += box.size;
  }
  return found;
}

/** Boxes from the track of pictures down to the table of its codings. */
const DOWN = ['mdia', 'minf', 'stbl', 'stsd'];
/** Of a table of codings: version, flags and count. Of a coding of pictures: what stands before its boxes (ISO/IEC 14496-12, 12.1.3). */
const [TABLE_HEAD, ENTRY_HEAD] = [8, 86];

/** An index (a whole moov) with the projection in the first coding of its pictures. */
function withProjection(moov: Buffer, range: PixelRange | null): Buffer {
  const root = boxOf(moov, 0, moov.length);
  const child = (box: FoundBox, type: string): FoundBox | undefined => childrenOf(moov, box).find((b) => b.type === type);
  const isPictures = (track: FoundBox): boolean => {
    const media = child(track, 'mdia');
    const handler = media && child(media, 'hdlr');
    return handler !== undefined && moov.toString('latin1', handler.at + 16, handler.at + 20) === 'vide';
  };
  const track = childrenOf(moov, root).find((b) => b.type === 'trak' && isPictures(b));
  const path: FoundBox[] = track ? [root, track] : [];
  for (const type of DOWN) {
    const next: FoundBox | undefined = path.length > 0 ? child(path.at(-1) as FoundBox, type) : undefined;
    if (!next) throw new MediaError('encode-failed', 'the index has no pictures');
    path.push(next);
  }
  const table = path.at(-1) as FoundBox;
  const first = table.at + table.head + TABLE_HEAD;
  const entry = boxOf(moov, first, table.at + table.size - first);
  path.push(entry);
  const at = first + ENTRY_HEAD;
  const [before, after] = [moov.subarray(0, at), moov.subarray(at)];
  const said = range && rangedColours(moov.subarray(at, entry.at + entry.size), range);
  const parts = said ? [sphere(), said.boxes, after.subarray(said.read)] : [sphere(), after];
  const out = Buffer.concat([before, ...parts]);
  for (const { at: where, size } of path) out.writeUInt32BE(size + out.length - moov.length, where);
  return out;
}

/** What boxes of a coding say of its colours as MOV has it ("nclc"), as MP4 has it ("nclx", with the range): what to put in place of so many bytes. */
function rangedColours(bytes: Buffer, range: PixelRange): { readonly boxes: Buffer; readonly read: number } | null {
  for (let p = 0; p + 8 <= bytes.length && bytes.readUInt32BE(p) >= 8; p += bytes.readUInt32BE(p)) {
    const { size, type, head } = boxOf(bytes, p, bytes.length - p);
    if (type !== 'colr' || bytes.toString('latin1', p + head, p + head + 4) !== 'nclc') continue;
    const codes = bytes.subarray(p + head + 4, p + head + 10);
    const colr = box('colr', Buffer.from(NCLX, 'latin1'), codes, Buffer.of(range === 'full' ? 0x80 : 0));
    return { boxes: Buffer.concat([bytes.subarray(0, p), colr]), read: p + size };
  }
  return null;
}
const NCLX = 'nclx';

function box(type: string, ...parts: readonly Buffer[]): Buffer {
  const body = Buffer.concat(parts);
  const head = Buffer.alloc(8);
  head.writeUInt32BE(8 + body.length);
  head.write(type, 4, 'latin1');
  return Buffer.concat([head, body]);
}

/** Who says so, in the file. */
const WRITTEN_BY = 'Thawline\0';

/** Of all around, equirectangular, looking at its middle, nothing left out. */
function sphere(): Buffer {
  const plain = Buffer.alloc(4);
  const source = Buffer.from(WRITTEN_BY, 'latin1');
  const looking = box('prhd', plain, Buffer.alloc(12));
  return box('sv3d', box('svhd', plain, source), box('proj', looking, box('equi', plain, Buffer.alloc(16))));
}
