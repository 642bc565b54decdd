import { Inject, Injectable } from '@nestjs/common';
import { formatRate } from '@thawline/core/time';
import {
  checkTimeline,
  countUses,
  isMoving,
  ledgerOf,
  type Project,
  readRate,
  readSeconds,
  remarksOf,
  reusedStretches,
  type Source,
} from '@thawline/project';
import { csvText } from '../http/csv.js';
import { Failure } from '../http/failure.js';
import { ResultsService } from '../jobs/results.service.js';
import { ProjectsService } from '../projects/projects.service.js';

type Checks = ReadonlyMap<string, Awaited<ReturnType<ResultsService['checks']>>[number]['verdict']>;

/** What was found, for other programs: the table of sources, and a source's ledger. */
@Injectable()
export class TablesService {
  constructor(
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(ResultsService) private readonly results: ResultsService,
  ) {}

  /** One row a source. */
  async csv(projectId: string): Promise<string> {
    const { document, checks } = await this.read(projectId);
    const uses = countUses(document);
    const rows = document.sources.map((source) => rowOf(source, checks.get(source.mediaId) ?? null, uses.get(source.id) ?? 0));
    return csvText(COLUMNS, rows);
  }

  async ledger(projectId: string, sourceId: string) {
    const { document, checks } = await this.read(projectId);
    const source = document.sources.find((s) => s.id === sourceId);
    if (!source) throw new Failure('unknown-source', { id: sourceId }, 'There is no such source.');
    const check = checks.get(source.mediaId) ?? null;
    const { name, mediaId, pictures } = source;
    return { name, mediaId, pictures, ...ledgerOf(document, source, check), remarks: remarksOf(source, check) };
  }

  async timelineCheck(projectId: string, timelineId: string) {
    const { document, checks } = await this.read(projectId);
    const timeline = document.timelines.find((t) => t.id === timelineId);
    if (!timeline) throw new Failure('unknown-timeline', { id: timelineId }, 'There is no such timeline.');
    return checkTimeline(document, timeline, { known: await this.projects.timings(document), faultsOf: (id) => checks.get(id) });
  }

  async reuse(projectId: string) {
    const document = await this.projects.document(projectId);
    return reusedStretches(document, await this.projects.timings(document));
  }

  private async read(projectId: string): Promise<{ document: Project; checks: Checks }> {
    const [document, checks] = await Promise.all([this.projects.document(projectId), this.results.checks(projectId)]);
    return { document, checks: new Map(checks.map((c) => [c.mediaId, c.verdict])) };
  }
}

/** In their order; they stand even where there is no source. */
const COLUMNS = [
  'name',
  'kind',
  'pictures',
  'claimed',
  'stored',
  'measured',
  'measuredPpmLeft',
  'timing',
  'true',
  'readAt',
  'seconds',
  'width',
  'height',
  'codec',
  'fields',
  'soundSeconds',
  'soundSampleRate',
  'soundChannels',
  'uses',
  'remarks',
] as const;

type Verdict = Checks extends ReadonlyMap<string, infer V> ? V : never;

function rowOf(source: Source, check: Verdict | null, uses: number): Record<(typeof COLUMNS)[number], string | number> {
  const read = readRate(source);
  const seconds = readSeconds(source);
  return {
    name: source.name,
    kind: source.kind,
    pictures: source.pictures,
    claimed: source.claimed ? formatRate(source.claimed) : '',
    stored: source.stored ? formatRate(source.stored) : '',
    measured: source.measured ? formatRate(source.measured.rate) : '',
    measuredPpmLeft: source.measured ? source.measured.ppm.toFixed(2) : '',
    timing: !isMoving(source) ? '' : source.variable ? 'variable' : 'even',
    true: check ? check.trueRate.toFixed(3) : '',
    readAt: read ? formatRate(read) : '',
    seconds: seconds === null ? '' : seconds.toFixed(3),
    width: source.width ?? 0,
    height: source.height ?? 0,
    codec: source.codec,
    fields: source.fields ?? 'progressive',
    soundSeconds: source.sound ? source.sound.seconds.toFixed(3) : '',
    soundSampleRate: source.sound?.sampleRate ?? '',
    soundChannels: source.sound?.channels ?? '',
    uses,
    remarks: remarksOf(source, check)
      .map((r) => r.text)
      .join('; '),
  };
}
