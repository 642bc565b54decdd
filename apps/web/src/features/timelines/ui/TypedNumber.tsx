import { NumberInput } from '@mantine/core';

interface Props {
  readonly label: string;
  /** Not shown over the field, but said. */
  readonly hidden?: boolean;
  readonly value: number;
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly decimals?: number;
  readonly suffix: string;
  readonly width?: number;
  /** Another number was typed, within reach. */
  readonly onNumber: (value: number) => void;
}

/** A number that is kept once it is typed, by Enter or by leaving the field; what is none changes nothing. */
export function TypedNumber({ label, hidden, value, decimals = 0, suffix, width = 84, onNumber, ...range }: Props) {
  const own = Number(value.toFixed(decimals));
  const keep = (typed: string): void => {
    const number = Number(typed.replace(suffix, '').replace('\u2212', '-'));
    if (typed.trim() === '' || !(number >= range.min && number <= range.max) || number === own) return;
    onNumber(number);
  };
  return (
    <NumberInput
      key={`${label} ${own}`}
      {...(hidden ? { 'aria-label': label } : { label })}
      size="xs"
      hideControls
      w={width}
      {...range}
      decimalScale={decimals}
      suffix={suffix}
      classNames={{ input: 'number' }}
      defaultValue={own}
      onBlur={(e) => keep(e.currentTarget.value)}
      onKeyDown={(e) => e.key === 'Enter' && keep(e.currentTarget.value)}
    />
  );
}
