import type { FromDecoder, ToDecoder } from './protocol.js';

/**
 * Decodes runs of a proxy's pictures away from the page. Proxies hold every picture as a JPEG of its own, so that any one is
 * exact by its number and no video decoder has to find it by time; where there is none yet, single pictures are asked for.
 */
const scope = self as unknown as {
  postMessage(message: FromDecoder, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToDecoder>) => void) | null;
};

scope.onmessage = ({ data }) => {
  void answer(data);
};

async function answer({ id, mediaId, from, count }: ToDecoder): Promise<void> {
  try {
    const run = await fetch(`/api/media/${encodeURIComponent(mediaId)}/pictures/${from}/run/${count}`);
    const blobs = run.ok
      ? split(await run.arrayBuffer())
      : await singly(`/api/media/${encodeURIComponent(mediaId)}/pictures`, from, count);
    const bitmaps = await Promise.all(blobs.map((blob) => (blob ? createImageBitmap(blob).catch(() => null) : null)));
    scope.postMessage(
      { type: 'pictures', id, bitmaps },
      bitmaps.filter((b) => b !== null),
    );
  } catch {
    scope.postMessage({ type: 'failed', id }, []);
  }
}

/** Count, lengths (32-bit, little-endian), then the pictures one after the other. */
function split(bytes: ArrayBuffer): Blob[] {
  const view = new DataView(bytes);
  const count = view.getUint32(0, true);
  let at = 4 + count * 4;
  return Array.from({ length: count }, (_, i) => {
    const length = view.getUint32(4 + i * 4, true);
    at += length;
    // Pictures with alpha are WebP; a browser tells both by their first bytes.
    return new Blob([new Uint8Array(bytes, at - length, length)]);
  });
}

async function singly(base: string, from: number, count: number): Promise<(Blob | null)[]> {
  const blobs: (Blob | null)[] = [];
  for (let k = 0; k < count; k++) {
    const reply = await fetch(`${base}/${from + k}`);
    blobs.push(reply.ok ? await reply.blob() : null);
  }
  return blobs;
}
