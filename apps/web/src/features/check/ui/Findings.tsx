import { Button, Menu } from '@mantine/core';
import { address } from '@thawline/contract';
import { formatDecimalRate, formatTimecode, rate } from '@thawline/core/time';
import type { Verdict } from '@thawline/core/truth';
import { faultKindWords, holdMarks, ownRate, type Source, stretchWords } from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks } from '../../../api/queries.js';
import { count, plural } from '../../../shared/words.js';
import { ReadAt } from '../../sources/ui/ReadAt.js';
import { type Finding, type Group, unsureOf } from '../model/findings.js';
import classes from './check.module.css';
import { FoundList } from './FoundList.js';
import { RatesInFrame } from './RatesInFrame.js';

/** What a check can be saved as. */
const FORMS = [
  ['html', 'A page to print'],
  ['csv', 'Findings as CSV'],
  ['json', 'Everything as JSON'],
  ['otio', 'Marks in an .otio'],
  ['edl', 'Marks in an .edl'],
] as const;

interface Props {
  readonly source: Source;
  readonly verdict: Pick<Verdict, 'held' | 'jumps' | 'cuts' | 'faults' | 'stretches' | 'parts'>;
  /** Those of the chosen kind, or all; ascending. */
  readonly found: readonly Finding[];
  /** Pictures by how long they stay, from runLengths. */
  readonly runs: readonly number[];
  readonly picture: number;
  readonly onPicture: (picture: number | undefined) => void;
  readonly onAgain: () => void;
  readonly running: boolean;
  /** The kind that is listed and walked; null: all. */
  readonly group: Group | null;
  readonly onGroup: (group: Group | null) => void;
}

/** "12 held", "3 jumps": how many there are of each kind that there is. */
function countsOf({ held, jumps, cuts, faults }: Props['verdict']): (readonly [group: Group, words: string])[] {
  const counts = [
    ['held', held.length, `${count(held.length)} held`],
    ['jump', jumps.length, plural(jumps.length, 'jump')],
    ['fault', faults.length, plural(faults.length, 'fault')],
    ['cut', cuts.length, plural(cuts.length, 'cut')],
  ] as const;
  return counts.flatMap(([group, many, words]) => (many > 0 ? [[group, words] as const] : []));
}

function whatWords(what: Finding['what']): string {
  if (what === 'held') return 'Shows nothing new against the picture before';
  if (what === 'jump') return 'Pictures are missing before this one';
  if (what === 'cut') return 'The first picture of another shot';
  return `A picture that does not belong: ${faultKindWords(what)}`;
}

/** How long pictures hold, the stretches, and every finding with its place. */
export function Findings({ source, verdict, found, runs, picture, onPicture, onAgain, running, group, onGroup }: Props) {
  const { id, project, run, timings } = useProject();
  const checks = useChecks(id);
  const [keeping, setKeeping] = useState(false);
  const marks = useMemo(
    () => holdMarks(project, source.id, timings, (media) => (media === source.mediaId ? verdict : undefined)),
    [project, source, timings, verdict],
  );
  const bars = runs.slice(1, 9);
  const most = Math.max(1, ...bars);
  const counts = countsOf(verdict);
  const unsure = useMemo(() => unsureOf(verdict), [verdict]);
  return (
    <aside className={`sheet ${classes.findings}`}>
      <RatesInFrame source={source} parts={verdict.parts} picture={picture} />
      <h2 className="heading">How long pictures hold</h2>
      <div className={classes.runs}>
        {bars.map((n, i) => (
          <div key={i} title={`${count(n)} stay for ${i + 1}`}>
            <i style={{ height: `${(n / most) * 100}%` }} data-held={i > 0 || undefined} />
            <small className="number">{i + 1}</small>
          </div>
        ))}
      </div>
      <h2 className="heading">Stretches</h2>
      <div className={classes.stretches}>
        {verdict.stretches.map((s) => (
          <button
            type="button"
            key={s.from}
            className={classes.stretch}
            title={stretchWords(s.pattern)}
            onClick={() => onPicture(s.from)}
          >
            <span className="number">
              {s.from}&ndash;{s.to - 1}
            </span>
            <span>{s.skips ? `cut from ${formatDecimalRate(s.skips.madeFrom)}` : stretchWords(s.pattern)}</span>
            <b className="number">{s.trueRate === null ? '\u2013' : formatDecimalRate(s.trueRate)}</b>
          </button>
        ))}
      </div>
      <h2 className="heading">Findings {counts.length === 0 && <span className="quiet">none</span>}</h2>
      {unsure.length > 0 && (
        <p className={classes.look}>
          <b>Look yourself: {plural(unsure.length, 'place')}.</b> The check is not sure at
          {unsure.slice(0, 4).map((k) => (
            <button type="button" key={k} className="number" onClick={() => onPicture(k)}>
              {k}
            </button>
          ))}
          {unsure.length > 4 && 'and more'}
        </p>
      )}
      <fieldset className={classes.kinds} aria-label="Kinds of findings">
        {counts.map(([one, words]) => (
          <Button
            key={one}
            size="compact-xs"
            variant={group === one ? 'filled' : 'light'}
            color="gray"
            aria-pressed={group === one}
            title={group === one ? 'List all of them again' : 'List and walk only these'}
            onClick={() => onGroup(group === one ? null : one)}
          >
            {words}
          </Button>
        ))}
      </fieldset>
      <FoundList
        found={found}
        here={picture}
        onGo={onPicture}
        row={({ at, what }) => (
          <>
            <span className="number">{formatTimecode(at, ownRate(source) ?? rate(25))}</span>
            <span className="number quiet">{at}</span>
            <span className={what === 'held' ? classes.held : what === 'cut' ? 'quiet' : 'rust'} title={whatWords(what)}>
              {what}
            </span>
          </>
        )}
      />
      {verdict.held.length > 0 && (
        <Button size="compact-md" onClick={() => setKeeping(true)}>
          Keep new pictures only&hellip;
        </Button>
      )}
      {verdict.held.length > 0 && source.readAt?.pictures !== 'rebuilt' && (
        <Button
          size="compact-md"
          variant="default"
          title={`${plural(verdict.held.length, 'held picture')} left out, and what lies between the others made by motion, wherever this source is used. No file is changed.`}
          onClick={() => void run({ type: 'rebuildSource', sourceId: source.id, held: [...verdict.held] })}
        >
          Rebuild with motion
        </Button>
      )}
      {marks.length > 0 && (
        <Button
          size="compact-md"
          variant="default"
          title="A mark on every timeline wherever a held picture of this source is seen"
          onClick={() => void run({ type: 'markFrames', marks })}
        >
          Put {plural(marks.length, 'mark')} in the edit
        </Button>
      )}
      <Menu position="top-end">
        <Menu.Target>
          <Button variant="default" size="compact-md">
            Save report
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {FORMS.map(([form, label]) => (
            <Menu.Item
              key={form}
              component="a"
              href={address('report', { project: id, source: source.id, form })}
              {...(form === 'html' ? { target: '_blank', rel: 'noreferrer' } : { download: true })}
            >
              {label}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      <Button variant="default" size="compact-md" onClick={onAgain} loading={running}>
        Check again
      </Button>
      {keeping && <ReadAt sources={[source]} checks={checks} suggested={{ origin: 'new' }} onClose={() => setKeeping(false)} />}
    </aside>
  );
}
