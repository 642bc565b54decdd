import { Button, Group, Modal, NativeSelect } from '@mantine/core';
import {
  FIELD_CHOICES,
  type FieldChoice,
  type FieldsAsked,
  fieldWayWords,
  type OrderChoice,
  outcomeOf,
  type Source,
} from '@thawline/project';
import { useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useChecks } from '../../../api/queries.js';
import { count, plural } from '../../../shared/words.js';
import { kindWords, readingsOf, storedFields } from '../model/fields.js';
import { useReadFields } from '../model/useReadFields.js';
import { ORDER_CHOICE_NAMES, WAY_NAMES } from './FieldChoices.js';
import classes from './fields.module.css';

/** Reads the fields of several sources by one choice: first what comes of each, then the button. */
export function FieldsSheet({ sources, onClose }: { sources: readonly Source[]; onClose: () => void }) {
  const { id } = useProject();
  const checks = useChecks(id);
  const readFields = useReadFields();
  const [asked, setAsked] = useState<FieldsAsked>({ way: 'measured', order: 'measured' });
  const [back, setBack] = useState(false);
  const { readings, left } = useMemo(() => readingsOf(sources, checks, asked), [sources, checks, asked]);
  const read = sources.filter((s) => s.fieldsRead);
  const wanted = back
    ? read.map((s) => ({ sourceId: s.id, runs: null }))
    : readings.map(({ source, runs }) => ({ sourceId: source.id, runs }));
  const apply = async (): Promise<void> => {
    if (await readFields(wanted)) onClose();
  };
  return (
    <Modal opened onClose={onClose} title={`Read the fields of ${plural(sources.length, 'source')}`} size={820}>
      <Group align="end">
        <NativeSelect
          label="Read them"
          value={back ? 'stored' : asked.way}
          onChange={(e) => {
            const value = e.currentTarget.value;
            setBack(value === 'stored');
            if (value !== 'stored') setAsked({ ...asked, way: value as FieldChoice });
          }}
          data={[
            ...FIELD_CHOICES.map((value) => ({ value, label: WAY_NAMES[value] })),
            ...(read.length > 0 ? [{ value: 'stored', label: 'as stored' }] : []),
          ]}
        />
        <NativeSelect
          label="First field"
          value={asked.order}
          disabled={back}
          onChange={(e) => setAsked({ ...asked, order: e.currentTarget.value as OrderChoice })}
          data={Object.entries(ORDER_CHOICE_NAMES).map(([value, label]) => ({ value, label }))}
        />
      </Group>
      <table className={classes.table}>
        <thead>
          <tr>
            <th>Source</th>
            <th>Measured</th>
            <th>Read</th>
            <th>Pictures</th>
            <th>Lines kept</th>
          </tr>
        </thead>
        <tbody>
          {back
            ? read.map((source) => (
                <tr key={source.id}>
                  <td>{source.name}</td>
                  <td />
                  <td>as stored</td>
                  <td className="number">
                    {count(source.pictures)} &rarr; {count(source.fieldsRead?.stored.pictures ?? 0)}
                  </td>
                  <td className="number">100 %</td>
                </tr>
              ))
            : readings.map(({ source, runs }) => {
                const stored = storedFields(source, checks);
                const outcome = outcomeOf(runs);
                return (
                  <tr key={source.id}>
                    <td>{source.name}</td>
                    <td>{kindWords(stored.finding)}</td>
                    <td>{fieldWayWords(runs)}</td>
                    <td className="number">
                      {count(stored.frames)} &rarr; {count(outcome.pictures)}
                    </td>
                    <td className="number">{Math.round(outcome.linesKept * 100)} %</td>
                  </tr>
                );
              })}
        </tbody>
      </table>
      {!back && left.length > 0 && (
        <p className="quiet">
          {left
            .slice(0, 4)
            .map(({ source, why }) => `${source.name} ${why}`)
            .join('; ')}
          {left.length > 4 && ` and ${left.length - 4} more`}: {left.length === 1 ? 'it stays' : 'they stay'} as{' '}
          {left.length === 1 ? 'it is' : 'they are'}.
        </p>
      )}
      <Group justify="end" mt="md">
        <Button variant="default" onClick={onClose}>
          Cancel
        </Button>
        <Button disabled={wanted.length === 0} onClick={() => void apply()}>
          Read {plural(wanted.length, 'source')} so
        </Button>
      </Group>
    </Modal>
  );
}
