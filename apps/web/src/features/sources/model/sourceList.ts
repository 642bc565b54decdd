import { type ColumnDef, getCoreRowModel, getSortedRowModel, type Row, useReactTable } from '@tanstack/react-table';
import type { CheckSummary, FileState } from '@thawline/contract';
import { rateToNumber } from '@thawline/core/time';
import {
  countUses,
  type FileSource,
  type Project,
  pictureSize,
  type Remark,
  readRate,
  readSeconds,
  remarksOf,
} from '@thawline/project';
import { useMemo } from 'react';
import { groupKey, type RateGroup, rateGroups } from '../../../shared/rates/rates.js';
import type { SourceList, SourceOrder } from '../../../shared/state/view.js';

/** A source with all that its row shows and sorts by. */
export interface SourceRow {
  readonly source: FileSource;
  readonly at: number;
  readonly check: CheckSummary | null;
  readonly file: FileState | null;
  readonly uses: number;
  readonly remarks: readonly Remark[];
}

export type Line = { readonly kind: 'group'; readonly group: RateGroup } | { readonly kind: 'source'; readonly row: SourceRow };

/** Sources without a value come last in both directions. */
const by = (order: SourceOrder, value: (row: SourceRow) => number | string | undefined): ColumnDef<SourceRow> => ({
  id: order,
  accessorFn: value,
  sortUndefined: 'last',
  sortingFn: typeof value === 'string' ? 'alphanumeric' : 'auto',
});

const COLUMNS: ColumnDef<SourceRow>[] = [
  by('added', (r) => r.at),
  by('name', (r) => r.source.name.toLowerCase()),
  by('stored', (r) => (r.source.stored ? rateToNumber(r.source.stored) : undefined)),
  by('measured', (r) => (r.source.measured ? rateToNumber(r.source.measured.rate) : undefined)),
  by('true', (r) => r.check?.verdict.trueRate),
  by('read', (r) => {
    const rate = readRate(r.source);
    return rate ? rateToNumber(rate) : undefined;
  }),
  by('runs', (r) => readSeconds(r.source) ?? undefined),
  by('size', (r) => pictureSize(r.source).width * pictureSize(r.source).height),
  by('fields', (r) => r.source.fields),
  by('sound', (r) => r.source.sound?.seconds),
  by('uses', (r) => r.uses),
  by('remark', (r) => r.remarks[0]?.text),
];

export function rowsOf(
  project: Project,
  checks: ReadonlyMap<string, CheckSummary>,
  files: ReadonlyMap<string, FileState>,
): SourceRow[] {
  const uses = countUses(project);
  return project.sources.map((source, at) => {
    const check = checks.get(source.mediaId) ?? null;
    const remarks = remarksOf(source, check?.verdict ?? null);
    return { source, at, check, file: files.get(source.mediaId) ?? null, uses: uses.get(source.id) ?? 0, remarks };
  });
}

/** What is shown of the rows: those of the chosen rates and remark. */
export function shownRows(rows: readonly SourceRow[], list: SourceList): SourceRow[] {
  const rates = new Set(list.rates);
  return rows.filter(
    (r) =>
      (rates.size === 0 || rates.has(groupKey(r.source))) &&
      (list.remark === null || r.remarks.some((remark) => remark.code === list.remark)),
  );
}

/** Rows in their order, under a line for each rate where they are grouped. */
export function linesOf(sorted: readonly SourceRow[], grouped: boolean): Line[] {
  if (!grouped) return sorted.map((row) => ({ kind: 'source', row }));
  const members = new Map<string, SourceRow[]>();
  for (const row of sorted) members.set(groupKey(row.source), [...(members.get(groupKey(row.source)) ?? []), row]);
  return rateGroups(sorted.map((r) => r.source)).flatMap((group): Line[] => [
    { kind: 'group', group },
    ...(members.get(group.key) ?? []).map((row): Line => ({ kind: 'source', row })),
  ]);
}

export function useLines(rows: readonly SourceRow[], list: SourceList): Line[] {
  const data = useMemo(() => shownRows(rows, list), [rows, list]);
  const state = useMemo(() => ({ sorting: [{ id: list.order, desc: list.down }] }), [list.order, list.down]);
  const table = useReactTable({
    data,
    columns: COLUMNS,
    // The same array while nothing changes: a new one would sort anew, and sorting anew resets the table's state.
    state,
    autoResetPageIndex: false,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const sorted = table.getRowModel().rows;
  return useMemo(
    () =>
      linesOf(
        sorted.map((row: Row<SourceRow>) => row.original),
        list.grouped,
      ),
    [sorted, list.grouped],
  );
}
