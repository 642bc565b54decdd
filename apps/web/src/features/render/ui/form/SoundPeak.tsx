import { NumberInput, Switch } from '@mantine/core';
import { useRenderWishes } from '../../../../shared/state/renderWishes.js';
import classes from '../render.module.css';

/** What most take without a word, in dBTP. */
const USUAL_PEAK = -1;

/** The true peak that the file's sound is brought to; what coding adds is found by trial. */
export function SoundPeak() {
  const { form, change } = useRenderWishes();
  return (
    <div className={classes.other}>
      <Switch
        size="xs"
        label="Bring its sound to a peak"
        checked={form.peak !== null}
        onChange={(e) => change({ peak: e.currentTarget.checked ? USUAL_PEAK : null })}
      />
      {form.peak !== null && (
        <NumberInput
          label="True peak in the file"
          size="xs"
          classNames={{ input: 'number' }}
          suffix=" dBTP"
          min={-40}
          max={0}
          step={0.5}
          decimalScale={1}
          value={form.peak}
          onChange={(n) => typeof n === 'number' && n >= -40 && n <= 0 && change({ peak: n })}
        />
      )}
    </div>
  );
}
