import { Button, Group, NumberInput } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { CacheReply } from '@thawline/contract';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { bytes, plural } from '../../../shared/words.js';
import classes from './render.module.css';

const GIGA = 1e9;

/** What is kept of renders, how much that may be, and a way to be rid of it. */
export function KeptParts({ renders }: { renders: number }) {
  const client = useQueryClient();
  const cache = useQuery({ queryKey: ['cache', renders], queryFn: () => call('cache') }).data;
  const [typed, setTyped] = useState<number | null>(null);
  if (!cache) return null;
  const take = (work: Promise<CacheReply>): void => {
    work.then((now) => client.setQueryData(['cache', renders], now)).catch(tellError);
  };
  return (
    <details className={`sheet ${classes.card}`} data-testid="kept">
      <summary>
        Kept of renders: <span className="number">{bytes(cache.bytes)}</span> of{' '}
        <span className="number">{bytes(cache.most)}</span>
      </summary>
      <p className="quiet">
        {plural(cache.files, 'part', 'parts')} of what was rendered. What is unchanged is not rendered again; what was not used
        for longest goes first.
      </p>
      <Group gap="xs" align="end">
        <NumberInput
          label="Keep at most, in GB"
          size="xs"
          w={130}
          min={0}
          max={100_000}
          decimalScale={1}
          value={typed ?? cache.most / GIGA}
          onChange={(n) => typeof n === 'number' && setTyped(n)}
          onBlur={() => {
            if (typed !== null && typed * GIGA !== cache.most)
              take(call('limitCache', { body: { most: Math.round(typed * GIGA) } }));
          }}
        />
        <Button variant="default" size="xs" disabled={cache.files === 0} onClick={() => take(call('emptyCache'))}>
          Delete all parts
        </Button>
      </Group>
    </details>
  );
}
