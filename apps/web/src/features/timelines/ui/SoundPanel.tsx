import { Button, Group, NumberInput, SegmentedControl } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { rateToNumber } from '@thawline/core/time';
import {
  actionSpeed,
  type Clip,
  LEVEL_MAX,
  LEVEL_MIN,
  peakWords,
  type SoundWay,
  type Source,
  semitones,
  soundSpan,
  soundWay,
  type Timeline,
} from '@thawline/project';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { Fact } from '../../../shared/fact/Fact.js';
import { ClipWave } from '../../../shared/waveform/ClipWave.js';
import { SOUND_CHOICES, speedWords } from '../../../shared/words.js';
import classes from './sound.module.css';

/** True peak that sound is brought up to, in dBTP; what coding adds is the render's to say. */
const TOP = -1;

/** The sound of the chosen clips: what it does at their speed, and how loud it is, measured. */
export function SoundPanel({
  timeline,
  chosen,
  clip,
  source,
}: {
  timeline: Timeline;
  chosen: readonly Clip[];
  clip: Clip;
  source: Source;
}) {
  const { run, timings } = useProject();
  const { ref, width } = useElementSize();
  const span = soundSpan(source, clip, timeline, timings);
  const measured = useQuery({
    queryKey: ['loudness', source.mediaId, span.from, span.to],
    queryFn: () =>
      call('loudness', { parameters: { media: source.mediaId }, query: { from: String(span.from), to: String(span.to) } }),
    enabled: source.kind !== 'timeline',
    staleTime: Number.POSITIVE_INFINITY,
  });
  const way = soundWay(source, clip);
  const speed = actionSpeed(source, clip, timeline);
  const set = (change: { way?: SoundWay | null; level?: number }): void =>
    void run({ type: 'setSound', timelineId: timeline.id, clipIds: chosen.map((c) => c.id), ...change });
  const { peak = null, loudness = null } = measured.data ?? {};
  const raise = peak === null ? null : Math.min(LEVEL_MAX, Math.floor((TOP - peak) * 100) / 100);
  return (
    <div className={classes.sound} data-testid="sound-panel">
      <div ref={ref} className={classes.soundWave}>
        {width > 0 && (
          <ClipWave
            clip={clip}
            source={source}
            timeline={timeline}
            scale={width / clip.length}
            height={56}
            seen={{ from: 0, to: width }}
          />
        )}
      </div>
      <Group gap="md" align="center">
        <SegmentedControl
          size="xs"
          aria-label="What the sound does"
          data={[...SOUND_CHOICES]}
          value={way}
          onChange={(v) => set({ way: v as SoundWay })}
        />
        <span className="quiet">{wayWords(way, rateToNumber(speed), semitones(speed), clip)}</span>
        {clip.sound !== null && source.readAt && (
          <Button size="compact-sm" variant="subtle" onClick={() => set({ way: null })}>
            as its source
          </Button>
        )}
      </Group>
      <Group gap="md" align="flex-end">
        <Level key={`${clip.id} ${clip.level}`} level={clip.level} onLevel={(level) => set({ level })} />
        <Button
          size="compact-md"
          variant="default"
          disabled={raise === null}
          title="Of this clip by itself. Coding may add to it: under Render the file's sound can be brought to a peak."
          onClick={() => raise !== null && set({ level: raise })}
        >
          Bring up to {peakWords(TOP)}
          {raise !== null && ` (${raise > 0 ? '+' : ''}${raise.toFixed(1)} dB)`}
        </Button>
        <Fact
          size="plain"
          name="True peak"
          value={peak === null ? '\u2013' : peakWords(peak + clip.level)}
          tone={peak !== null && peak + clip.level > 0 ? 'rust' : undefined}
        />
        <Fact size="plain" name="Loudness" value={loudness === null ? '\u2013' : `${(loudness + clip.level).toFixed(1)} LUFS`} />
        <Fact size="plain" name="Sounds" value={`${(span.to - span.from).toFixed(3)} s of it`} />
      </Group>
    </div>
  );
}

function Level({ level, onLevel }: { level: number; onLevel: (level: number) => void }) {
  const [typed, setTyped] = useState<number | string>(level);
  const keep = (): void => {
    const wanted = Number(typed);
    if (typed !== '' && Number.isFinite(wanted) && wanted !== level) onLevel(Math.max(LEVEL_MIN, Math.min(LEVEL_MAX, wanted)));
  };
  return (
    <NumberInput
      size="xs"
      w={96}
      label="Level"
      suffix=" dB"
      step={1}
      decimalScale={2}
      min={LEVEL_MIN}
      max={LEVEL_MAX}
      value={typed}
      onChange={setTyped}
      onBlur={keep}
      onKeyDown={(e) => e.key === 'Enter' && keep()}
    />
  );
}

function wayWords(way: SoundWay, speed: number, tones: number, clip: Clip): string {
  if (way === 'off') return 'nothing is heard';
  if (clip.fit === 'freeze') return 'the clip is frozen: nothing is heard';
  if (clip.curve)
    return way === 'own'
      ? 'from its in point on, beside the curve'
      : 'follows the time curve; silent where that stands or runs back';
  if (Math.abs(speed - 1) < 1e-9) return 'real time: as it was recorded';
  const percent = speedWords(speed);
  if (way === 'own') return `at 100 % while the pictures run at ${percent}`;
  return way === 'pitch'
    ? `at ${percent}, its pitch kept`
    : `at ${percent}, ${tones > 0 ? '+' : '\u2212'}${Math.abs(tones).toFixed(2)} semitones`;
}
