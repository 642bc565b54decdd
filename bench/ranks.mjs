/** Spearman's rank correlation. */
export function rankCorrelation(pairs) {
  const mean = (list) => list.reduce((sum, x) => sum + x, 0) / list.length;
  const ranks = (values) => {
    const order = values.map((value, i) => [value, i]).sort((a, b) => a[0] - b[0]);
    const out = [];
    order.forEach(([, i], rank) => {
      out[i] = rank;
    });
    return out;
  };
  const [a, b] = [ranks(pairs.map((p) => p[0])), ranks(pairs.map((p) => p[1]))];
  const [ma, mb] = [mean(a), mean(b)];
  const sum = (f) => a.reduce((total, _, i) => total + f(a[i] - ma, b[i] - mb), 0);
  return sum((x, y) => x * y) / Math.sqrt(sum((x) => x * x) * sum((_, y) => y * y));
}
