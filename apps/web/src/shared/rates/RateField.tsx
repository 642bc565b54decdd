import { TextInput } from '@mantine/core';
import {
  countsFields,
  formatExact,
  formatRate,
  parseRate,
  type RateTrouble,
  rateTrouble,
  STANDARD_RATES,
  sameRate,
} from '@thawline/core/time';
import classes from './rates.module.css';

const TROUBLES: Record<Exclude<RateTrouble, 'empty'>, string> = {
  zero: 'A rate of 0 shows nothing. Try 25, 23.976 or 24000/1001.',
  negative: 'A rate is above 0.',
  'too-low': 'Rates go down to 1/100 a second.',
  'too-high': 'Rates go up to 100 000 a second.',
  'not-a-number': 'Not a rate. Try 25, 23.976 or 24000/1001.',
};

interface Props {
  /** For those who do not see it. */
  readonly label: string;
  readonly typed: string;
  readonly onType: (text: string) => void;
  /** Said while nothing is typed. */
  readonly hint?: string | undefined;
  readonly disabled?: boolean;
  /** What is counted: "frames", "pictures". */
  readonly what?: string;
}

/** A rate by picking or typing; says at once what was understood, exactly. */
export function RateField({ label, typed, onType, hint, disabled = false, what = 'pictures' }: Props) {
  const rate = parseRate(typed);
  const trouble = rateTrouble(typed);
  return (
    <div>
      <div className={classes.chips}>
        {STANDARD_RATES.map((r) => (
          <button
            type="button"
            key={formatExact(r)}
            className={`${classes.chip} number`}
            aria-pressed={rate !== null && sameRate(rate, r)}
            disabled={disabled}
            onClick={() => onType(formatRate(r))}
          >
            {formatRate(r)}
          </button>
        ))}
      </div>
      <TextInput
        aria-label={label}
        placeholder="or any other: 12.5, 30000/1001"
        value={typed}
        disabled={disabled}
        onChange={(e) => onType(e.currentTarget.value)}
        error={trouble && trouble !== 'empty' ? TROUBLES[trouble] : undefined}
        description={
          rate
            ? `exactly ${formatExact(rate)} ${what} a second${countsFields(typed) ? ', of two fields each' : ''}`
            : (hint ?? 'Any fraction from 1/100 to 100000.')
        }
        inputWrapperOrder={['label', 'input', 'description', 'error']}
      />
    </div>
  );
}
