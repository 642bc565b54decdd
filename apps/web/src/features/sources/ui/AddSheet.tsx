import { Button, Group, Modal } from '@mantine/core';
import { parseRate, type Rate } from '@thawline/core/time';
import { useState } from 'react';
import { RateField } from '../../../shared/rates/RateField.js';
import { plural } from '../../../shared/words.js';
import type { AddPlan, AddReport } from '../model/adding.js';
import classes from './sources.module.css';

/** What of a folder will be added: a rate is asked for numbered pictures, and what is skipped is listed. */
export function AddSheet({
  plan,
  suggested,
  onAdd,
  onClose,
}: {
  plan: AddPlan;
  suggested: string;
  onAdd: (plan: AddPlan, sequence: Rate | null) => void;
  onClose: () => void;
}) {
  const [typed, setTyped] = useState(suggested);
  const series = plan.items.filter((i) => i.kind === 'series');
  const films = plan.items.filter((i) => i.kind === 'film').length;
  const sounds = plan.items.filter((i) => i.kind === 'sound').length;
  const pictures = plan.items.filter((i) => i.kind === 'picture').length;
  const rate = parseRate(typed);
  const parts = [
    ...(films > 0 ? [plural(films, 'film')] : []),
    ...(sounds > 0 ? [plural(sounds, 'sound')] : []),
    ...(series.length > 0 ? [plural(series.length, 'run of numbered pictures', 'runs of numbered pictures')] : []),
    ...(pictures > 0 ? [plural(pictures, 'still')] : []),
  ];
  return (
    <Modal opened onClose={onClose} title="What is in there" size="lg">
      <p>{parts.length > 0 ? `${parts.join(', ')}.` : 'Nothing that can be a source.'}</p>
      {series.length > 0 && (
        <>
          <ul className={classes.reasons}>
            {series.slice(0, 12).map((s) => (
              <li key={s.name}>
                <b>{s.name}</b>: {plural(s.files, 'picture')}
                {s.missing > 0 && <span className="rust">, {plural(s.missing, 'number is', 'numbers are')} missing</span>}
              </li>
            ))}
          </ul>
          <p className="quiet">Numbered pictures have no rate of their own. Each run becomes one source, read at</p>
          <RateField label="Rate of the numbered pictures" typed={typed} onType={setTyped} />
        </>
      )}
      <Passed passed={plan.passed} refused={plan.refused} />
      <Group justify="flex-end" mt="md">
        {plan.items.length === 0 && <span className="quiet">Nothing in there can be added.</span>}
        {series.length > 0 && !rate && <span className="rust">Say at which rate the numbered pictures are read.</span>}
        <Button
          disabled={plan.items.length === 0 || (series.length > 0 && !rate)}
          onClick={() => onAdd(plan, series.length > 0 ? rate : null)}
        >
          Add {plural(plan.items.length, 'source')}
        </Button>
      </Group>
    </Modal>
  );
}

/** What was passed over and what was refused, with the reasons. */
export function Passed({ passed, refused }: Pick<AddReport, 'passed' | 'refused'>) {
  const files = passed.reduce((sum, p) => sum + p.files, 0);
  return (
    <>
      {refused.length > 0 && (
        <div data-testid="refused">
          <b>{plural(refused.length, 'file was', 'files were')} not taken:</b>
          <ul className={classes.reasons}>
            {refused.map((r) => (
              <li key={r.file + r.message}>{r.message}</li>
            ))}
          </ul>
        </div>
      )}
      {files > 0 && (
        <div data-testid="passed">
          <b>{plural(files, 'file')} passed over</b> as no material: {passed.map((p) => `${p.reason} ${p.files}`).join(', ')}
        </div>
      )}
    </>
  );
}
