import { Inject, Injectable } from '@nestjs/common';
import { writeEdl, writeOtio } from '@thawline/core/exchange';
import { fileStem } from '@thawline/work';
import { csvText } from '../http/csv.js';
import { Failure } from '../http/failure.js';
import { ResultsService } from '../jobs/results.service.js';
import { PicturesService } from '../pictures/pictures.service.js';
import { now, ProjectsService } from '../projects/projects.service.js';
import { type Report, reportEdit, reportHtml, reportJson, reportOf } from './report.js';

export const REPORT_FORMS = ['json', 'csv', 'html', 'otio', 'edl'] as const;
export type ReportForm = (typeof REPORT_FORMS)[number];

const TYPES: Record<ReportForm, string> = {
  json: 'application/json',
  csv: 'text/csv; charset=utf-8',
  html: 'text/html; charset=utf-8',
  otio: 'application/json',
  edl: 'text/plain; charset=utf-8',
};
/** Pictures that a page shows. */
const SHOWN = 12;

/** A check as a file to keep or to hand on. */
@Injectable()
export class ReportsService {
  constructor(
    @Inject(ProjectsService) private readonly projects: ProjectsService,
    @Inject(ResultsService) private readonly results: ResultsService,
    @Inject(PicturesService) private readonly pictures: PicturesService,
  ) {}

  async report(projectId: string, sourceId: string, form: ReportForm): Promise<{ name: string; type: string; text: string }> {
    const document = await this.projects.document(projectId);
    const source = document.sources.find((s) => s.id === sourceId);
    if (!source) throw new Failure('unknown-source', { id: sourceId }, 'There is no such source.');
    const report = reportOf(source, await this.results.check(source.mediaId));
    return { name: `${fileStem(source.name)}-check.${form}`, type: TYPES[form], text: await this.text(report, form) };
  }

  private async text(report: Report, form: ReportForm): Promise<string> {
    switch (form) {
      case 'json':
        return reportJson(report);
      case 'csv':
        return csvText(['picture', 'timecode', 'seconds', 'what', 'share', 'note'], report.findings);
      case 'html':
        return reportHtml(report, await this.shown(report), now());
      case 'otio':
        return writeOtio(reportEdit(report));
      case 'edl':
        return writeEdl(reportEdit(report));
      default:
        return form satisfies never;
    }
  }

  /** The first findings, each with the picture before. */
  private async shown({ source, findings }: Report): Promise<Map<number, Uint8Array>> {
    const wanted = [...new Set(findings.flatMap(({ picture }) => [picture - 1, picture]))].filter((k) => k >= 0).slice(0, SHOWN);
    const found = new Map<number, Uint8Array>();
    for (const k of wanted) {
      // A file that is gone since leaves the page without pictures, not the person without the page.
      const jpeg = await this.pictures.picture(source.mediaId, k).catch(() => null);
      if (jpeg) found.set(k, jpeg);
    }
    return found;
  }
}
