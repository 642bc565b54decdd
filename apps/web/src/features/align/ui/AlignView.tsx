import { Button, Group, Select } from '@mantine/core';
import type { Source } from '@thawline/project';
import { useParams } from 'react-router';
import { useProject } from '../../../api/ProjectProvider.js';
import { rateLabel } from '../../../shared/rates/rates.js';
import { useGo } from '../../../shared/state/places.js';
import { alignable } from '../model/pairPlaces.js';
import classes from './align.module.css';
import { ListenToMore } from './Followers.js';
import { Pair } from './Pair.js';

/** Two recordings of one event: the second one's offset and clock against the first, and the ties that show it. */
export function AlignView() {
  const { project } = useProject();
  const { a: aId, b: bId } = useParams();
  const a = project.sources.find((s) => s.id === aId);
  const b = project.sources.find((s) => s.id === bId);
  return (
    <div className={classes.view}>
      <Chooser a={a} b={b} />
      {a && b && a !== b ? <Pair key={`${a.id} ${b.id}`} a={a} b={b} /> : <Nothing />}
    </div>
  );
}

function Nothing() {
  const { project } = useProject();
  const go = useGo();
  const fit = project.sources.filter(alignable);
  return (
    <div className={`sheet ${classes.none}`}>
      <h2>Two recordings of one event</h2>
      <p className="quiet">
        {fit.length < 2
          ? 'Add two of them: two cameras, or a camera and a sound recorder. A clap at both ends makes it exact.'
          : 'Choose the one that leads, and the one that is to follow it. Their sounds tell where they belong together, and how far their clocks part; without sound, moments are tied by hand.'}
      </p>
      {fit.length < 2 && <Button onClick={() => go('sources')}>Go to Sources</Button>}
    </div>
  );
}

function Chooser({ a, b }: { a: Source | undefined; b: Source | undefined }) {
  const { project } = useProject();
  const go = useGo();
  const data = project.sources
    .filter(alignable)
    .map((s) => ({ value: s.id, label: `${s.name} \u00b7 ${rateLabel(s)}${s.sound ? '' : ' \u00b7 no sound'}` }));
  return (
    <Group gap="sm" className={classes.chooser ?? ''}>
      <Select
        aria-label="The recording that leads"
        placeholder="leads"
        searchable
        data={data.map((d) => ({ ...d, disabled: d.value === b?.id }))}
        value={a?.id ?? null}
        onChange={(id) => id && go('align', id, b?.id)}
        w={260}
      />
      <span className="quiet">and</span>
      <Select
        aria-label="The recording that follows"
        placeholder="follows it"
        searchable
        disabled={!a}
        data={data.map((d) => ({ ...d, disabled: d.value === a?.id }))}
        value={b?.id ?? null}
        onChange={(id) => id && go('align', a?.id, id)}
        w={260}
      />
      {a && b && (
        <Button variant="default" size="compact-md" onClick={() => go('align', b.id, a.id)}>
          Swap the two
        </Button>
      )}
      {a && <ListenToMore a={a} />}
    </Group>
  );
}
