/** Between the page and the worker that decodes pictures. Every want is answered by exactly one pictures or failed. */

export interface Want {
  readonly type: 'want';
  readonly id: number;
  readonly mediaId: string;
  readonly from: number;
  readonly count: number;
}

export type ToDecoder = Want;

export type FromDecoder =
  | { readonly type: 'pictures'; readonly id: number; readonly bitmaps: readonly (ImageBitmap | null)[] }
  | { readonly type: 'failed'; readonly id: number };
