/** Values with weights, of which quantiles are asked. Its arrays are used again. */
export class Weighted {
  length = 0;
  private total = 0;
  private readonly values: Float64Array;
  private readonly weights: Float64Array;

  constructor(capacity: number) {
    this.values = new Float64Array(capacity);
    this.weights = new Float64Array(capacity);
  }

  clear(): void {
    this.length = 0;
    this.total = 0;
  }

  /** @param weight 0 or more */
  add(value: number, weight: number): void {
    this.values[this.length] = value;
    this.weights[this.length++] = weight;
    this.total += weight;
  }

  /**
   * The least value that at least `share` of all weight lies at or below; 0 of nothing. Orders the entries anew.
   *
   * Hoare's selection (Communications of the ACM 4, 1961) with weights for counts: about n steps where sorting takes n log n.
   */
  quantile(share: number): number {
    const { values, weights } = this;
    if (this.length === 0) return 0;
    let wanted = this.total * share;
    let low = 0;
    let high = this.length - 1;
    while (low < high) {
      const pivot = values[(low + high) >> 1];
      let i = low;
      let j = high;
      while (i <= j) {
        while (values[i] < pivot) i++;
        while (values[j] > pivot) j--;
        if (i > j) break;
        this.swap(i++, j--);
      }
      // low … j are at most the pivot, i … high at least; between them lies the pivot itself, or nothing.
      let below = 0;
      for (let k = low; k <= j; k++) below += weights[k];
      if (wanted <= below) {
        high = j;
        continue;
      }
      const between = i - j > 1 ? weights[j + 1] : 0;
      if (between > 0 && wanted <= below + between) return pivot;
      wanted -= below + between;
      low = i;
    }
    return values[Math.min(low, this.length - 1)];
  }

  private swap(i: number, j: number): void {
    const { values, weights } = this;
    const [value, weight] = [values[i], weights[i]];
    values[i] = values[j];
    weights[i] = weights[j];
    values[j] = value;
    weights[j] = weight;
  }
}
