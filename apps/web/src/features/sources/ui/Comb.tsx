const COLOURS = { rust: 'var(--rust)', fjord: 'var(--fjord)', ice: 'var(--ice)' } as const;

/** More teeth for a higher rate (by its square root, so that 8 and 25 are told apart beside 600): the eye compares before the number is read. */
export function Comb({ rate, most, tone }: { rate: number | null; most: number; tone?: keyof typeof COLOURS | undefined }) {
  const teeth = rate === null ? 0 : Math.max(1, Math.round(Math.sqrt(rate / most) * 30));
  return (
    <svg width="96" height="13" aria-hidden="true">
      {Array.from({ length: teeth }, (_, i) => (
        <rect key={i} x={i * 3.2} y={0} width={1.5} height={13} fill={tone ? COLOURS[tone] : 'var(--ink)'} />
      ))}
    </svg>
  );
}
