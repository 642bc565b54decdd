import { Group, SegmentedControl, Switch, TextInput } from '@mantine/core';
import {
  formatDecimalRate,
  over,
  parseRate,
  parseSpeed,
  type Rate,
  rateToNumber,
  readLength,
  SPEED_MAX,
  SPEED_MIN,
  secondsOf,
  times,
} from '@thawline/core/time';
import {
  actionSpeed,
  apply,
  type Clip,
  type Command,
  type Follow,
  ownRate,
  type SoundWay,
  type Source,
  semitones,
  soundSpan,
  soundWay,
  type Timeline,
} from '@thawline/project';
import { useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { plural, SOUND_CHOICES, speedWords } from '../../../shared/words.js';
import classes from './retime.module.css';

type Kind = 'percent' | 'rate' | 'length';
const LABELS: Record<Kind, string> = { percent: 'Speed', rate: 'Pictures shown at', length: 'Length' };

/** The time of a clip's sound by itself: its speed three ways, what becomes of its pitch, and whether its pictures go along. */
export function SoundRetime({ timeline, clip, source }: { timeline: Timeline; clip: Clip; source: Source }) {
  const { project, run, timings } = useProject();
  const [follow, setFollow] = useState<Follow>('move');
  const [typed, setTyped] = useState<{ kind: Kind; text: string } | null>(null);
  const [alone, setAlone] = useState(true);
  const own = source.kind === 'sound' ? null : ownRate(source);
  const linked = clip.link !== null;
  const now = actionSpeed(source, clip, timeline);
  const span = soundSpan(source, clip, timeline, timings);
  const read = ({ kind, text }: { kind: Kind; text: string }): Rate | null => {
    if (kind === 'percent') return within(parseSpeed(/%\s*$/.test(text) || text.includes('/') ? text : `${text}%`));
    if (kind === 'rate') {
      const asked = parseRate(text);
      return asked && own ? within(over(asked, own)) : null;
    }
    const frames = readLength(text, timeline);
    return frames === null ? null : within(times(now, { num: clip.length, den: frames }));
  };
  const speed = typed && read(typed);
  const command = (wanted: Rate, length: number | null): Command => ({
    type: 'retimeClip',
    timelineId: timeline.id,
    clipId: clip.id,
    speed: wanted,
    backward: false,
    follow,
    ...(alone && linked ? { alone: true } : {}),
    ...(length === null ? {} : { length }),
  });
  const lengthOf = (t: { kind: Kind; text: string }): number | null =>
    t.kind === 'length' ? readLength(t.text, timeline) : null;
  const outcome = (): string => {
    if (!typed || !speed) return '';
    const applied = apply(project, command(speed, lengthOf(typed)), timings);
    if (!applied.ok)
      return applied.code === 'overlap' ? 'There is no room for that: let what follows move.' : 'No clip can run at that.';
    const after = applied.project.timelines.find((t) => t.id === timeline.id)?.clips.find((c) => c.id === clip.id);
    if (!after) return '';
    const tones = semitones(speed);
    const pitch =
      soundWay(source, clip) === 'pitch' || Math.abs(tones) < 0.005
        ? 'its pitch stays'
        : `its pitch moves by ${tones > 0 ? '+' : '\u2212'}${Math.abs(tones).toFixed(2)} semitones`;
    return `${speedWords(rateToNumber(speed), 3)}. Runs ${plural(after.length, 'frame')}, ${secondsOf(after.length, timeline.rate).toFixed(2)} s; ${pitch}. Enter takes it.`;
  };
  const take = (): void => {
    if (typed && speed) void run(command(speed, lengthOf(typed))).then((done) => done && setTyped(null));
  };
  const field = (kind: Kind, value: string) => (
    <TextInput
      key={kind}
      size="xs"
      w={150}
      label={LABELS[kind]}
      classNames={{ input: 'number' }}
      value={typed?.kind === kind ? typed.text : value}
      error={typed?.kind === kind && typed.text !== '' && !speed}
      onChange={(e) => setTyped({ kind, text: e.currentTarget.value })}
      onKeyDown={(e) => {
        if (e.key === 'Enter') take();
        if (e.key === 'Escape') setTyped(null);
      }}
    />
  );
  return (
    <section className={`sheet ${classes.soundRetime}`} data-testid="sound-retime">
      <h2 className="heading">The sound of {clip.label ?? source.name}</h2>
      <p className="quiet">
        It sounds <span className="number">{(span.to - span.from).toFixed(3)} s</span> of the source, from{' '}
        <span className="number">{span.from.toFixed(3)} s</span> on.
      </p>
      <Group gap="md" align="flex-end">
        {field('percent', speedWords(rateToNumber(now), 3))}
        {own && field('rate', formatDecimalRate(rateToNumber(times(own, now))))}
        {field('length', String(clip.length))}
        <SegmentedControl
          size="xs"
          aria-label="What the sound does"
          data={[...SOUND_CHOICES]}
          value={soundWay(source, clip)}
          onChange={(way) => void run({ type: 'setSound', timelineId: timeline.id, clipIds: [clip.id], way: way as SoundWay })}
        />
        <Switch
          size="xs"
          label="What follows moves"
          checked={follow === 'move'}
          onChange={(e) => setFollow(e.currentTarget.checked ? 'move' : 'keep')}
        />
        {linked && (
          <Switch
            size="xs"
            label="Its pictures stay as they are"
            checked={alone}
            onChange={(e) => setAlone(e.currentTarget.checked)}
          />
        )}
      </Group>
      <p className={classes.outcome} role="status" data-wrong={(typed && !speed) || undefined}>
        {typed
          ? speed
            ? outcome()
            : 'Not understood: a speed (50 %), a rate (25), or a length: frames (120), seconds (8s) or timecode (8:00).'
          : 'Type a speed, a rate or a length; what comes of it stands here before it is taken.'}
      </p>
    </section>
  );
}

function within(speed: Rate | null): Rate | null {
  return speed && rateToNumber(speed) >= SPEED_MIN && rateToNumber(speed) <= SPEED_MAX ? speed : null;
}
