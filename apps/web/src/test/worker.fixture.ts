/** A worker that the test is the other side of: what it was sent, and ways to answer or to crash. */
export class FakeWorker<Sent, Answer> {
  static all: FakeWorker<unknown, unknown>[] = [];
  readonly sent: Sent[] = [];
  onmessage: ((message: { data: Answer }) => void) | null = null;
  onerror: (() => void) | null = null;
  terminated = false;

  constructor(readonly address: URL | string) {
    FakeWorker.all.push(this as FakeWorker<unknown, unknown>);
  }

  /** Takes the place of the browser's; workers of before are forgotten. */
  static install(): void {
    FakeWorker.all = [];
    Object.assign(globalThis, { Worker: FakeWorker });
  }

  postMessage(message: Sent): void {
    this.sent.push(message);
  }

  answer(data: Answer): void {
    this.onmessage?.({ data });
  }

  terminate(): void {
    this.terminated = true;
  }
}

/** A decoded picture that remembers whether it was given back. */
export function fakeBitmap(): ImageBitmap & { closed: boolean } {
  const bitmap = { width: 2, height: 2, closed: false, close: () => undefined };
  bitmap.close = () => {
    bitmap.closed = true;
  };
  return bitmap;
}
