import { Button, MultiSelect, Popover, Stack } from '@mantine/core';
import { useQueries } from '@tanstack/react-query';
import { type Solution, spread } from '@thawline/core/align';
import { alignmentOf, recordedSeconds, type Source } from '@thawline/project';
import { useMemo, useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { useProject } from '../../../api/ProjectProvider.js';
import { useJobs } from '../../../api/queries.js';
import { useGo } from '../../../shared/state/places.js';
import { type Edge, type Follower, followersOf } from '../model/alignedGroups.js';
import { alignable, SURE } from '../model/pairPlaces.js';
import classes from './align.module.css';
import { PlaceIt, type PlaceStep } from './PlaceIt.js';

/** What is out of step by more than this where ways round are compared, in seconds. */
const CONTRADICTS = 0.002;

/** Every pair whose ties are known: settled by hand, else surely found by sound. */
function useEdges(): readonly Edge[] {
  const { id, project } = useProject();
  const jobs = useJobs(id);
  const heard = useMemo(() => {
    const done = new Set(jobs.filter((j) => j.kind === 'align' && j.state === 'done').map((j) => j.subject));
    const sounding = project.sources.filter((s) => alignable(s) && s.sound);
    const byMedia = new Map(sounding.map((s) => [s.mediaId, s]));
    return [...done].flatMap((subject) => {
      const [a, b] = (subject ?? '').split('+').map((media) => byMedia.get(media));
      return a && b ? [{ aId: a.id, bId: b.id }] : [];
    });
  }, [jobs, project.sources]);
  const replies = useQueries({
    queries: heard.map(({ aId, bId }) => ({
      queryKey: ['aligned', id, aId, bId],
      queryFn: () => call('aligned', { parameters: { project: id, a: aId, b: bId } }),
    })),
  });
  const loaded = replies.map((r) => r.dataUpdatedAt).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the replies are new objects at each draw; when they came says whether they changed
  return useMemo(() => {
    const found = heard.flatMap((pair, i): Edge[] => {
      const reply = replies[i]?.data;
      return reply && reply.certainty >= SURE && !alignmentOf(project, pair.aId, pair.bId) ? [{ ...pair, ties: reply.ties }] : [];
    });
    return [...project.alignments, ...found];
  }, [heard, loaded, project.alignments]);
}

/** All that follow the leading recording, one after the other, and placing them at once. Two alone are a pair: that says it all. */
export function Followers({ a, chosen }: { a: Source; chosen: string }) {
  const { project } = useProject();
  const go = useGo();
  const edges = useEdges();
  const followers = useMemo(() => followersOf(a.id, edges, recordedSeconds(a)), [a, edges]);
  const nameOf = (id: string): string => project.sources.find((s) => s.id === id)?.name ?? '';
  const steps = followers.flatMap((f): PlaceStep[] => {
    const [first, second] = [f.aId, f.bId].map((id) => project.sources.find((s) => s.id === id));
    return first && second ? [{ a: first, b: second, ties: f.ties, solution: f.solution }] : [];
  });
  const [one, another] = steps;
  if (!one || !another) return null;
  return (
    <section className={`sheet ${classes.followers}`} data-testid="followers">
      <span className="quiet">{a.name} is followed by</span>
      {followers.map((f) => (
        <button
          type="button"
          key={f.bId}
          className={classes.follower}
          data-chosen={f.bId === chosen || undefined}
          data-tone={f.contradicts && f.contradicts.seconds > CONTRADICTS ? 'rust' : undefined}
          onClick={() => go('align', f.aId, f.bId)}
        >
          <b>{nameOf(f.bId)}</b>
          <span>{followerWords(f, a.id, nameOf)}</span>
        </button>
      ))}
      <PlaceIt lead={a} steps={[one, another, ...steps.slice(2)]} />
    </section>
  );
}

function followerWords(f: Follower, leadId: string, nameOf: (id: string) => string): string {
  const way = f.aId === leadId ? '' : `by way of ${nameOf(f.aId)} \u00b7 `;
  const round = f.contradicts
    ? ` \u00b7 ${(f.contradicts.seconds * 1000).toFixed(2)} ms off by way of ${nameOf(f.contradicts.byId)}`
    : '';
  return `${way}${driftWords(f.solution)} \u00b7 ${(spread(f.solution) * 1000).toFixed(2)} ms left over${round}`;
}

function driftWords({ drifts, driftPpm }: Solution): string {
  return drifts ? `${driftPpm >= 0 ? '+' : '\u2212'}${Math.abs(driftPpm).toFixed(1)} ppm` : 'drift not told';
}

/** More recordings to listen to beside the leading one: each is a job of its own. */
export function ListenToMore({ a }: { a: Source }) {
  const { id, project } = useProject();
  const [open, setOpen] = useState(false);
  const [wanted, setWanted] = useState<string[]>([]);
  const others = project.sources.filter((s) => s.id !== a.id && alignable(s) && s.sound);
  const listen = (): void => {
    setOpen(false);
    setWanted([]);
    for (const b of wanted)
      call('startJobs', { parameters: { project: id }, body: { kind: 'align', a: a.id, b } }).catch(tellError);
  };
  if (!a.sound || others.length === 0) return null;
  return (
    <Popover opened={open} onChange={setOpen} width={340} position="bottom-start" withArrow shadow="md">
      <Popover.Target>
        <Button variant="default" size="compact-sm" onClick={() => setOpen(!open)}>
          Align more by sound&hellip;
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Stack gap="xs">
          <MultiSelect
            label={`Do these belong to ${a.name}?`}
            searchable
            comboboxProps={{ withinPortal: false }}
            data={others.map((s) => ({ value: s.id, label: s.name }))}
            value={wanted}
            onChange={setWanted}
          />
          <Button onClick={listen} disabled={wanted.length === 0}>
            Find by sound
          </Button>
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}
