import type { ReceiptWhat } from '@thawline/project';

export interface ReceiptLine {
  readonly what: ReceiptWhat;
  readonly asked: string;
  readonly measured: string;
  readonly same: boolean;
}

/** A picture of a source (or of a placed timeline) by its name. */
export interface NamedPicture {
  readonly source: string;
  readonly picture: number;
}

/** Frames of the file that show something else than was asked, all alike. */
export interface WrongStretch {
  /** First frame of the file; the timeline's is `range.from` more. */
  readonly frame: number;
  readonly frames: number;
  /** Frame whose picture the first one shows; null: none of those near by. */
  readonly shows: number | null;
  /** Null: black. */
  readonly asked: NamedPicture | null;
  readonly shown: NamedPicture | null;
}

/** What a file is and what it should be. Never changed: measuring again gives another one. */
export interface Receipt {
  readonly lines: readonly ReceiptLine[];
  readonly wrong: readonly WrongStretch[];
  /** Things that differ: lines, and stretches of wrong pictures. */
  readonly differs: number;
  /** Frames that hardly differ from a neighbour and cannot be told from it. */
  readonly alike: number;
  readonly frames: number;
  readonly bytes: number;
  /** Of all that was written, to see later whether it still is the same. */
  readonly fingerprint: string;
  /** Size and time of each file: while these are the same, so is what was measured. */
  readonly stamp: string;
  /** Names of what was written: the pictures, then sound beside them. */
  readonly files: readonly string[];
  /** Loudness and peak of the sound as it was written. */
  readonly loudness: number | null;
  readonly peak: number | null;
}
