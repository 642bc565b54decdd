/** Reports progress now and then while a job runs: `done` of `total` (null while that is not known), and what is being done. */
export type Progress = (done: number, total: number | null, phase: string) => void;

/** Takes a picture of what is being made, as JPEG, with its frame number. */
export type ShowPicture = (frame: number, jpeg: Uint8Array) => void;
