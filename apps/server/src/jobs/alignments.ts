/** What aligning two files needs to start again after a restart. */
export interface AlignParams {
  readonly mediaA: string;
  readonly mediaB: string;
  readonly names: { readonly a: string; readonly b: string };
}

/** What such a job's row is found by: both files, in this order. */
export function alignSubject(mediaA: string, mediaB: string): string {
  return `${mediaA}+${mediaB}`;
}
