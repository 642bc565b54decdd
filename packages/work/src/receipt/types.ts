import type { ResultOf } from '../jobs/define.js';
import type { receipt } from '../jobs/receipt/definition.js';

/** What a file is and what it should be. Never changed: measuring again gives another one. */
export type Receipt = ResultOf<typeof receipt>;
export type ReceiptLine = Receipt['lines'][number];
/** Frames of the file that show something else than was asked, all alike. */
export type WrongStretch = Receipt['wrong'][number];
/** A picture of a source (or of a placed timeline) by its name. */
export type NamedPicture = NonNullable<WrongStretch['asked']>;
