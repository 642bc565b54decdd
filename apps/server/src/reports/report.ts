import type { CheckReply } from '@thawline/contract';
import { type Edit, exactSecondsOf } from '@thawline/core/exchange';
import { formatDecimalRate, formatTimecode, type Rate, rateToNumber } from '@thawline/core/time';
import { type ClaimVerdict, judgeClaim } from '@thawline/core/truth';
import {
  corrected,
  faultKindWords,
  fieldKindWords,
  newPictures,
  ownRate,
  pictureSize,
  plural,
  type Source,
  stretchWords,
  toldRate,
  verdictLong,
} from '@thawline/project';
import { inPage, pageOf, pictureIn } from './page.js';

/** What a check found of one source, in plain values: every form of the report is made of these. */
export interface Report {
  readonly source: Source;
  readonly check: CheckReply;
  readonly rate: Rate;
  readonly sentence: string;
  readonly claim: ClaimVerdict | null;
  readonly findings: readonly Finding[];
}

export interface Finding {
  readonly picture: number;
  readonly timecode: string;
  readonly seconds: number;
  readonly what: 'held' | 'jump' | 'blend' | 'cut' | 'fault' | 'mark';
  /** Of a blend: the later picture's share. */
  readonly share: number | null;
  /** A mark's own words; what a faulty picture is; "by hand" where a person said so against the check. */
  readonly note: string;
}

export function reportOf(source: Source, check: CheckReply): Report {
  const verdict = corrected(check.verdict, source.judged);
  const rate = ownRate(source) ?? { num: 25, den: 1 };
  const byHand = new Set((source.judged ?? []).map((j) => j.picture));
  const finding = (what: Finding['what'], picture: number, share: number | null = null, note = ''): Finding => ({
    picture,
    timecode: formatTimecode(picture, rate),
    seconds: Number(((picture * rate.den) / rate.num).toFixed(4)),
    what,
    share,
    note: note || (what === 'held' && byHand.has(picture) ? 'by hand' : ''),
  });
  const findings = [
    ...verdict.held.map((k) => finding('held', k)),
    ...verdict.jumps.map((k, i) => finding('jump', k, null, missingWords(verdict.missing[i]))),
    ...verdict.cuts.map((k) => finding('cut', k)),
    ...verdict.faults.map((f) => finding('fault', f.picture, null, faultKindWords(f.kind))),
    ...verdict.blends.map((k, i) => finding('blend', k, verdict.shares[i] ?? null)),
    ...(source.marks ?? []).map((m) => finding('mark', m.picture, null, m.note)),
  ].sort((a, b) => a.picture - b.picture);
  const told = toldRate(verdict);
  const claim =
    source.claimed && source.measured && told !== null
      ? judgeClaim(source.claimed, source.measured.rate, verdict.trueRate)
      : null;
  return { source, check: { ...check, verdict }, rate, sentence: verdictLong(verdict), claim, findings };
}

/** "2 missing"; nothing where it is not known. */
function missingWords(missing: number | undefined): string {
  return missing === undefined ? '' : `${missing} missing`;
}

export function reportJson({ source, check, sentence, claim, findings }: Report): string {
  const { verdict, range, region } = check;
  const { name, pictures, stored, measured, claimed } = source;
  const head = { name, pictures, stored, measured, claimed, range, region, sentence, claim };
  return `${JSON.stringify({ ...head, verdict, findings, trace: check.trace }, null, 1)}\n`;
}

/** The findings as markers on one clip of the whole source. */
export function reportEdit({ source, rate, findings }: Report): Edit {
  const clip = {
    name: source.name,
    start: 0,
    length: source.pictures,
    media: {
      name: source.name,
      url: source.name,
      rate,
      start: exactSecondsOf(0, rate),
      seconds: exactSecondsOf(source.pictures, rate),
      kept: null,
    },
    from: exactSecondsOf(0, rate),
    speed: { num: 1, den: 1 },
    kept: null,
  };
  return {
    name: `${source.name}, check`,
    rate,
    dropFrame: false,
    startFrame: 0,
    size: pictureSize(source),
    lanes: [{ kind: 'picture', name: 'Picture 1', clips: [clip], kept: null }],
    marks: findings.map(({ picture, what, share, note }) => ({
      frame: picture,
      length: 0,
      name: share === null ? [what, note].filter(Boolean).join(': ') : `${what}, ${Math.round(share * 100)} %`,
      kept: null,
    })),
    kept: null,
  };
}

/** Beyond this many findings only their number is printed. */
const LISTED = 400;
const CHART = { width: 960, height: 180 };

/** Change of the pictures as bars, at most one a pixel: the largest of each, held ones in ice. */
function chart({ check }: Report): string {
  const { trace, verdict, range } = check;
  const held = new Set(verdict.held);
  const per = Math.max(1, Math.ceil(trace.length / CHART.width));
  const bars: string[] = [];
  const wide = Math.min(6, CHART.width / Math.max(1, Math.ceil(trace.length / per)));
  for (let at = 0, i = 0; at < trace.length; at += per, i++) {
    let most = 0;
    let all = true;
    for (let k = at; k < Math.min(trace.length, at + per); k++) {
      most = Math.max(most, trace[k] as number);
      all &&= held.has(range.from + k + 1);
    }
    // 0.02 to 50 steps on a logarithmic scale.
    const share = Math.max(0.02, Math.min(1, Math.log(Math.max(0.02, most) / 0.02) / Math.log(2500)));
    const height = share * CHART.height;
    const x = (i * wide).toFixed(2);
    bars.push(
      `<rect x="${x}" y="${(CHART.height - height).toFixed(1)}" width="${(wide * 0.7).toFixed(2)}" height="${height.toFixed(1)}" fill="${all ? '#7FBEDB' : '#15272C'}"/>`,
    );
  }
  return `<svg viewBox="0 0 ${CHART.width} ${CHART.height}" role="img" aria-label="Change of each picture from the one before">${bars.join('')}</svg>`;
}

/**
 * A page to print, whole in itself.
 * @param pictures JPEGs by picture, for the first findings
 */
export function reportHtml(report: Report, pictures: ReadonlyMap<number, Uint8Array>, madeAt: string): string {
  const { source, check, sentence, claim, findings } = report;
  const { verdict, range } = check;
  const row = (cells: readonly string[]): string => `<tr>${cells.map((c) => `<td>${c}</td>`).join('')}</tr>`;
  const image = (k: number): string => {
    const jpeg = pictures.get(k);
    if (!jpeg) return '';
    return pictureIn(jpeg, `Picture ${k}`, `${k}${verdict.held.includes(k) ? ', held' : ''}`);
  };
  const told = toldRate(verdict);
  const facts = [
    ['True rate', told === null ? '\u2013' : formatDecimalRate(told)],
    ['Measured', formatDecimalRate(verdict.storedRate)],
    ['New pictures', `${newPictures(verdict)} of ${verdict.pictures}`],
    ['Certain', `${(verdict.certainty * 100).toFixed(1)} %`],
    ['Fields', fieldKindWords(verdict.fields)],
    ...(claim && source.claimed
      ? [
          [
            'Claim',
            `${formatDecimalRate(rateToNumber(source.claimed))}: ${claim.kept ? 'kept' : `not kept, ${Number(claim.fits.toFixed(2))} fits`}`,
          ],
        ]
      : []),
  ];
  const part =
    range.from > 0 || range.to < source.pictures ? ` Pictures ${range.from} to ${range.to - 1} of ${source.pictures}.` : '';
  return pageOf(
    `${source.name}, check`,
    `<h1>${inPage(source.name)}</h1>
<p class="quiet">Checked ${inPage(madeAt.slice(0, 16).replace('T', ' '))}.${part}</p>
<p>${inPage(sentence)}</p>
<dl>${facts.map(([name, value]) => `<div><dt>${inPage(name as string)}</dt><dd>${inPage(value as string)}</dd></div>`).join('')}</dl>
<h2>Change from the picture before</h2>${chart(report)}
<h2>Stretches</h2><table><tr><th>Pictures</th><th>Pattern</th><th>True rate</th><th>Certain</th></tr>
${verdict.stretches.map((s) => row([`${s.from} to ${s.to - 1}`, inPage(stretchWords(s.pattern)), s.trueRate === null ? '\u2013' : s.trueRate.toFixed(3), `${(s.certainty * 100).toFixed(1)} %`])).join('\n')}</table>
<h2>Pictures</h2>${[...pictures.keys()].map(image).join('') || '<p class="quiet">Nothing was found to show.</p>'}
<h2>${plural(findings.length, 'finding')}</h2>
${
  findings.length === 0
    ? ''
    : `<table><tr><th>Timecode</th><th>Picture</th><th>What</th></tr>${findings
        .slice(0, LISTED)
        .map((f) =>
          row([
            f.timecode,
            String(f.picture),
            f.share === null
              ? inPage([f.what, f.note].filter(Boolean).join(': '))
              : `${f.what}, ${Math.round(f.share * 100)} % of the later one`,
          ]),
        )
        .join('\n')}</table>`
}
${findings.length > LISTED ? `<p class="quiet">And ${findings.length - LISTED} more, in the CSV.</p>` : ''}
`,
  );
}
