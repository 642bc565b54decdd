import { Button, Group, Loader, SegmentedControl } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { ComparisonReply } from '@thawline/contract';
import { formatRate, nominalRate } from '@thawline/core/time';
import { useMemo, useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../../../api/client.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { Weave } from '../../../shared/diagram/Weave.js';
import { Fact } from '../../../shared/fact/Fact.js';
import { useWalk } from '../../../shared/keys/useWalk.js';
import { pictureAddress } from '../../../shared/player/pictures.js';
import { useGo } from '../../../shared/state/places.js';
import { useView } from '../../../shared/state/view.js';
import { count, plural, speedWords } from '../../../shared/words.js';
import { differencesOf, pathWeave } from '../model/comparisonPath.js';
import { pictureBehind } from '../model/pictureBehind.js';
import { CheckList, SAME_FROM } from './CheckList.js';
import classes from './check.module.css';
import { Difference } from './Difference.js';
import { FoundList } from './FoundList.js';

/** Two sources beside each other: which pictures they share, and where they part. */
export function CompareView() {
  const { job = '', picture } = useParams();
  const found = useQuery({
    queryKey: ['comparison', job],
    queryFn: () => call('comparison', { parameters: { job } }),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <div className={classes.view}>
      <CheckList comparison={job} />
      {found.data ? (
        <Compared key={job} found={found.data} picture={Number(picture) || 0} />
      ) : (
        <div className={`sheet ${classes.none}`}>
          {found.isError ? <div className="notice">{found.error.message}</div> : <Loader />}
        </div>
      )}
    </div>
  );
}

/** Pairs shown beside each other. */
const SHOWN = 6;

function Compared({ found, picture }: { found: ComparisonReply; picture: number }) {
  const { project, timings } = useProject();
  const go = useGo();
  const [gain, setGain] = useState<'4' | '16'>('4');
  const zoom = useView((s) => s.weaveZoom);
  const set = useView((s) => s.set);
  const weave = useMemo(() => pathWeave(found), [found]);
  const differences = useMemo(() => differencesOf(found), [found]);
  const first = found.path[0]?.[1] ?? 0;
  const last = first + found.path.length - 1;
  const at = Math.max(first, Math.min(last, picture));
  const to = (b: number | undefined): void => {
    if (b !== undefined) go('check', 'compare', found.jobId, Math.max(first, Math.min(last, b)));
  };
  const bs = useMemo(() => differences.map((d) => d.b).sort((a, b) => a - b), [differences]);
  const { next, previous } = useWalk({ at, first, last, second: nominalRate(found.rateB), onGo: to, found: bs });
  const shownBy = (id: string, picture: number) => pictureBehind(project, id, picture, timings);
  const same = found.certainty >= SAME_FROM;
  if (!same || !weave) {
    return (
      <div className={`sheet ${classes.none}`} data-testid="comparison">
        <h2>
          {found.names.a} and {found.names.b}
        </h2>
        <p>
          These do not show the same pictures: what fits best fits hardly better than anything else would (
          {(found.certainty * 100).toFixed(0)} %).
        </p>
      </div>
    );
  }
  const from = Math.max(0, Math.min(at - first - 2, found.path.length - SHOWN));
  const pairs = found.path.slice(from, from + SHOWN);
  const mixed = new Map(found.blendsInB.map((m) => [m.b, m]));
  return (
    <>
      <div className={classes.middle}>
        <section className={`sheet ${classes.verdict}`} data-testid="comparison">
          <Fact name="Begins at" value={`${found.offsetSeconds.toFixed(3)} s`} />
          <Fact name="Speed" value={speedWords(found.speed)} />
          <Fact name="Matched" value={count(found.path.length)} />
          <Fact name="Certain" value={`${(found.certainty * 100).toFixed(1)} %`} />
          <p>{sentence(found)}</p>
        </section>
        <section className={`sheet ${classes.trace}`}>
          <div className={classes.head}>
            <h2 className="heading">Weave</h2>
            <Group gap={6}>
              <Button size="compact-sm" variant="default" disabled={previous === undefined} onClick={() => to(previous)}>
                Previous difference
              </Button>
              <Button size="compact-sm" variant="default" disabled={next === undefined} onClick={() => to(next)}>
                Next difference
              </Button>
              <SegmentedControl
                size="xs"
                value={zoom >= 30 ? 'close' : 'whole'}
                onChange={(v) => set({ weaveZoom: v === 'close' ? 38 : 0 })}
                data={[
                  { value: 'whole', label: 'whole' },
                  { value: 'close', label: 'close' },
                ]}
              />
            </Group>
          </div>
          <Weave
            mapping={weave.mapping}
            map={weave.map}
            at={at - first}
            firstFrame={first}
            rows={{ above: 'first', below: 'second' }}
            sourceLabel={formatRate(found.rateA)}
            timelineLabel={formatRate(found.rateB)}
            zoom={zoom >= 30 ? Math.min(zoom, 60) : 0}
            screen={null}
            pictureAt={null}
            shape={16 / 9}
            onFrame={to}
          />
        </section>
        <section className={`sheet ${classes.strip}`}>
          <div className={classes.head}>
            <h2 className="heading">Pairs</h2>
            <SegmentedControl
              size="xs"
              value={gain}
              onChange={(v) => setGain(v as '4' | '16')}
              data={[
                { value: '4', label: 'difference \u00d74' },
                { value: '16', label: '\u00d716' },
              ]}
            />
          </div>
          <div className={classes.pictures}>
            {pairs.map(([a, b]) => {
              const [pictureA, pictureB] = [shownBy(found.a, a), shownBy(found.b, b)];
              return (
                <button
                  type="button"
                  key={b}
                  className={classes.picture}
                  aria-current={b === at}
                  onClick={() => to(b)}
                  data-testid={`pair-${b}`}
                  data-a={a}
                >
                  <span className={classes.frame}>
                    {pictureA && <img src={pictureAddress(pictureA.mediaId, pictureA.picture)} alt={`${found.names.a}, ${a}`} />}
                  </span>
                  <span className={classes.under}>
                    <b className="number">{a}</b>
                    <small className="quiet">{mixed.has(b) ? 'mixed' : 'first'}</small>
                  </span>
                  <span className={classes.frame}>
                    {pictureB && <img src={pictureAddress(pictureB.mediaId, pictureB.picture)} alt={`${found.names.b}, ${b}`} />}
                  </span>
                  <span className={classes.under}>
                    <b className="number">{b}</b>
                    <small className="quiet">second</small>
                  </span>
                  {pictureA && pictureB && <Difference a={pictureA} b={pictureB} gain={Number(gain)} />}
                </button>
              );
            })}
          </div>
        </section>
      </div>
      <Differences found={found} rows={differences} at={at} onPicture={to} />
    </>
  );
}

function sentence(found: ComparisonReply): string {
  const { names, missing, droppedFromA, repeatedInB, blendsInB } = found;
  const changes = [
    droppedFromA.length > 0 ? `${plural(droppedFromA.length, 'picture is', 'pictures are')} left out` : '',
    repeatedInB.length > 0 ? `${count(repeatedInB.length)} shown again` : '',
    blendsInB.length > 0 ? `${count(blendsInB.length)} mixed` : '',
  ].filter(Boolean);
  const ends = [
    missing.headA > 0 ? `${count(missing.headA)} at the head` : '',
    missing.tailA > 0 ? `${count(missing.tailA)} at the tail` : '',
  ].filter(Boolean);
  const own = missing.headB + missing.tailB;
  return [
    changes.length > 0
      ? `${names.b} shows ${names.a}: ${changes.join(', ')}.`
      : `${names.b} shows ${names.a} picture by picture.`,
    ends.length > 0 ? `Of ${names.a} it does not show ${ends.join(' and ')}.` : '',
    own > 0 ? `${plural(own, 'picture')} of ${names.b} ${own === 1 ? 'is' : 'are'} not in ${names.a}.` : '',
  ]
    .filter(Boolean)
    .join(' ');
}

function Differences({
  found,
  rows,
  at,
  onPicture,
}: {
  found: ComparisonReply;
  rows: ReturnType<typeof differencesOf>;
  at: number;
  onPicture: (b: number) => void;
}) {
  return (
    <aside className={`sheet ${classes.findings}`}>
      <h2 className="heading">
        Differences <span className="quiet">{rows.length === 0 ? 'none' : count(rows.length)}</span>
      </h2>
      <p className="quiet">
        picture of {found.names.a}, of {found.names.b}
      </p>
      <FoundList
        found={rows.map((one) => ({ ...one, at: one.b }))}
        here={at}
        onGo={onPicture}
        titleOf={(one) => one.note}
        testId="differences"
        row={({ a, b, what }) => (
          <>
            <span className="number">{a}</span>
            <span className="number quiet">{b}</span>
            <span className={what === 'repeated' ? classes.held : 'rust'}>{what}</span>
          </>
        )}
      />
    </aside>
  );
}
