/** What two streams give, pair by pair until both have ended; null where one has. Both are closed when the reader stops. */
export async function* sideBySide<A, B>(a: AsyncIterable<A>, b: AsyncIterable<B>): AsyncGenerator<readonly [A | null, B | null]> {
  const [left, right] = [a[Symbol.asyncIterator](), b[Symbol.asyncIterator]()];
  try {
    for (;;) {
      const [one, other] = await Promise.all([left.next(), right.next()]);
      if (one.done && other.done) return;
      yield [one.done ? null : one.value, other.done ? null : other.value];
    }
  } finally {
    await Promise.all([left.return?.(undefined), right.return?.(undefined)]);
  }
}
