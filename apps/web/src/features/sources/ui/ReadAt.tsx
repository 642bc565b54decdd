import { Button, Group, Modal, SegmentedControl } from '@mantine/core';
import type { CheckSummary } from '@thawline/contract';
import { formatRate, parseRate, sameRate, usualRate } from '@thawline/core/time';
import { previewReadAt, type SoundWay, type Source, type Uses } from '@thawline/project';
import { useEffect, useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useTiming } from '../../../api/queries.js';
import { RateField } from '../../../shared/rates/RateField.js';
import { timelineRates } from '../../../shared/rates/rates.js';
import { plural, SOUND_CHOICES } from '../../../shared/words.js';
import { type Origin, type ReadChoice, readingsFor } from '../model/readings.js';
import { EvenWeave } from './EvenWeave.js';
import { Changes, Holding, UseTable } from './ReadAtTables.js';
import classes from './readat.module.css';

const USES_WORDS: Record<Uses, string> = {
  move: 'change length, what follows moves',
  length: 'keep their length',
  time: 'keep their time, sped or slowed',
};

/** Reads sources at another rate: first all that will come of it, computed, then the button. */
export function ReadAt({
  sources,
  checks,
  suggested,
  onClose,
}: {
  sources: readonly Source[];
  checks: ReadonlyMap<string, CheckSummary>;
  /** What to begin with, where a finding led here. */
  suggested: Partial<ReadChoice>;
  onClose: () => void;
}) {
  const { project, run, timings } = useProject();
  const [origin, setOrigin] = useState<Origin>(suggested.origin ?? 'typed');
  const [typed, setTyped] = useState('');
  const [pictures, setPictures] = useState<ReadChoice['pictures']>(suggested.pictures ?? 'once');
  const [heard, setHeard] = useState<SoundWay | null>(null);
  const [uses, setUses] = useState<Uses>('move');
  const [except, setExcept] = useState<Readonly<Record<string, Uses>>>({});
  const rates = timelineRates(project);
  const variable = sources.filter((s) => s.variable);
  const sounding = sources.some((s) => s.sound);
  // Sound that ran longer than its pictures was right all along: it fits again when it stays as it is.
  const sound = heard ?? (origin === 'sound' ? 'own' : 'along');
  const rate = origin === 'typed' || origin === 'timeline' ? parseRate(typed) : null;
  const one = sources.length === 1 ? sources[0] : undefined;
  const timing = useTiming(variable.length === 1 ? variable[0] : undefined);
  const known = useMemo(
    () => (id: string) => timings(id) ?? (id === variable[0]?.mediaId ? timing : undefined),
    [timings, timing, variable],
  );
  const usual = useMemo(() => (timing ? usualRate(timing) : null), [timing]);
  // To be made even asks for a rate: the one that most of its pictures follow is there to begin with.
  const proposes = suggested.pictures === 'even' && origin === 'typed' && usual !== null;
  useEffect(() => {
    if (proposes) setTyped((before) => before || formatRate(usual));
  }, [proposes, usual]);
  const { readings, left } = useMemo(
    () => readingsFor({ origin, rate, pictures, sound }, sources, checks),
    [origin, rate, pictures, sound, sources, checks],
  );
  const command = useMemo(
    () => ({
      type: 'readAt' as const,
      readings: [...readings],
      uses,
      except: Object.entries(except).map(([clipId, how]) => ({ clipId, uses: how })),
    }),
    [readings, uses, except],
  );
  const ready = readings.length > 0 && (origin !== 'typed' || rate !== null);
  const preview = useMemo(() => (ready ? previewReadAt(project, command, known) : null), [ready, project, command, known]);
  const changing = preview?.changes.length ?? 0;
  const what = changing === 1 ? preview?.changes[0]?.source.name : plural(changing, 'source');
  const same = preview?.changes[0]?.reading?.rate;
  const alike = same && preview?.changes.every((c) => c.reading && sameRate(c.reading.rate, same));
  const chosen = one ? one.name : plural(sources.length, 'source');
  return (
    <Modal opened onClose={onClose} title={`Read ${chosen} at another rate`} size={920}>
      <div className={classes.panel}>
        <div>
          <Group gap={6} role="group" aria-label="Where the rate comes from">
            <Pick on={origin === 'own'} onPick={() => setOrigin('own')}>
              as measured
            </Pick>
            <Pick on={origin === 'stored'} onPick={() => setOrigin('stored')}>
              as stored
            </Pick>
            <Pick on={origin === 'sound'} onPick={() => setOrigin('sound')}>
              from the sound
            </Pick>
            <Pick on={origin === 'true'} onPick={() => setOrigin('true')}>
              true rate
            </Pick>
            <Pick on={origin === 'new'} onPick={() => setOrigin('new')}>
              new pictures only
            </Pick>
            {usual && (
              <Pick
                on={origin === 'typed' && rate !== null && sameRate(rate, usual)}
                onPick={() => {
                  setOrigin('typed');
                  setTyped(formatRate(usual));
                }}
              >
                as most pictures come: <b className="number">{formatRate(usual)}</b>
              </Pick>
            )}
            {rates.map((t) => (
              <Pick
                key={t.name}
                on={origin === 'timeline' && rate !== null && sameRate(rate, t.rate)}
                onPick={() => {
                  setOrigin('timeline');
                  setTyped(formatRate(t.rate));
                }}
              >
                {t.name}'s <b className="number">{formatRate(t.rate)}</b>
              </Pick>
            ))}
          </Group>
          <RateField
            label="Read at"
            typed={origin === 'typed' || origin === 'timeline' ? typed : ''}
            onType={(text) => {
              setOrigin('typed');
              setTyped(text);
            }}
            hint={origin === 'typed' ? undefined : "Each source's own rate is taken; see below."}
          />
        </div>
        <div className={classes.ways}>
          {variable.length > 0 && origin !== 'own' && (
            <Way
              label={variable.length === sources.length ? 'Its pictures' : `Pictures of ${variable.length} with variable timing`}
            >
              <SegmentedControl
                size="xs"
                value={pictures}
                onChange={(v) => setPictures(v as ReadChoice['pictures'])}
                data={[
                  { value: 'once', label: 'each once, one after the other' },
                  { value: 'even', label: 'keep their time, made even' },
                ]}
              />
            </Way>
          )}
          {sounding && (
            <Way label="The sound">
              <SegmentedControl size="xs" value={sound} onChange={(v) => setHeard(v as SoundWay)} data={[...SOUND_CHOICES]} />
            </Way>
          )}
          <Way label="Clips on timelines">
            <SegmentedControl
              size="xs"
              value={uses}
              onChange={(v) => {
                setUses(v as Uses);
                setExcept({});
              }}
              data={(['move', 'length', 'time'] as const).map((value) => ({ value, label: USES_WORDS[value] }))}
            />
          </Way>
        </div>
      </div>
      <div className={classes.preview} data-testid="read-preview">
        <p className={classes.summary} aria-live="polite">
          {preview ? (
            <>
              <b>{changing}</b> of {plural(sources.length, 'source')} {changing === 1 ? 'changes' : 'change'}
              {preview.matching > 0 && `, ${preview.matching} ${preview.matching === 1 ? 'is' : 'are'} read so already`}
              {left.length > 0 && `, ${left.length} left alone (${left[0]?.why})`}.{' '}
              {usesWords(preview.touched.length, preview.moved, preview.untouched)}
            </>
          ) : (
            'Choose a rate: what comes of it is shown here before anything happens.'
          )}
        </p>
        {origin === 'new' && changing > 0 && (
          <p className="quiet">
            Pictures that show nothing new are left out; what remains runs as long as before. No file is changed.
          </p>
        )}
        {variable.length === 1 && pictures === 'even' && rate && timing && <EvenWeave timing={timing} rate={rate} />}
        {preview && changing > 0 && <Changes changes={preview.changes} sound={sound} />}
        {preview && preview.holding.length > 0 && <Holding holding={preview.holding} />}
        {preview && preview.touched.length > 0 && (
          <UseTable touched={preview.touched} onUses={(id, how) => setExcept({ ...except, [id]: how })} />
        )}
      </div>
      <Group justify="flex-end" className={classes.foot ?? ''}>
        <Button
          disabled={changing === 0}
          onClick={async () => {
            if (await run(command)) onClose();
          }}
        >
          {changing === 0
            ? ready
              ? 'Nothing changes'
              : 'Choose a rate'
            : origin === 'new'
              ? `Keep the new pictures of ${what} only`
              : `Read ${what} ${alike ? `at ${formatRate(same)}` : origin === 'own' ? 'as measured' : 'so'}`}
        </Button>
      </Group>
    </Modal>
  );
}

function usesWords(touched: number, moved: number, untouched: number): string {
  const parts = [
    touched === 0
      ? 'No clip on a timeline is touched'
      : `${plural(touched, 'clip')} on timelines ${touched === 1 ? 'is' : 'are'} touched`,
    ...(moved > 0 ? [`${moved} more ${moved === 1 ? 'moves' : 'move'} along`] : []),
    ...(untouched > 0
      ? [
          `${untouched} ${untouched === 1 ? 'shows' : 'show'} each picture once and ${untouched === 1 ? 'stays' : 'stay'} as ${untouched === 1 ? 'it is' : 'they are'}`,
        ]
      : []),
  ];
  return `${parts.join(', ')}.`;
}

function Pick({ on, onPick, children }: { on: boolean; onPick: () => void; children: React.ReactNode }) {
  return (
    <button type="button" className={classes.pick} aria-pressed={on} onClick={onPick}>
      {children}
    </button>
  );
}

function Way({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <fieldset className={classes.way} aria-label={label}>
      <span className="quiet">{label}</span>
      {children}
    </fieldset>
  );
}
