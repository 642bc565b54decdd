import { Button, Group } from '@mantine/core';
import type { CheckSummary, JobReply } from '@thawline/contract';
import { formatDecimalRate, formatExact, formatRate, rateToNumber, soundGap } from '@thawline/core/time';
import type { Source } from '@thawline/project';
import { useProject } from '../api/project.js';
import { pictureAddress } from '../player/pictures.js';
import { useGo } from '../state/places.js';
import { clock, count, verdictLong } from '../words.js';
import classes from './sources.module.css';

interface Line {
  readonly name: string;
  readonly value: string;
  /** For the comb; null when there is none. */
  readonly rate: number | null;
  readonly from: string;
  readonly tone?: 'rust' | 'fjord';
}

/** All of a source's rates, and where each came from. */
export function Ledger({
  source,
  check,
  checking,
  onCheck,
}: {
  source: Source;
  check: CheckSummary | null;
  checking: JobReply | null;
  onCheck: () => void;
}) {
  const { project } = useProject();
  const go = useGo();
  const uses = project.timelines.filter((t) => t.clips.some((c) => c.sourceId === source.id));
  const gap = source.sound && soundGap(source.pictures, source.measured.rate, source.seconds, source.sound.seconds);
  const lines: Line[] = [
    { name: 'Stored', value: formatRate(source.stored), rate: rateToNumber(source.stored), from: 'what the file says of itself' },
    {
      name: 'Measured',
      value: formatRate(source.measured.rate),
      rate: rateToNumber(source.measured.rate),
      from: source.variable
        ? `average of ${count(source.pictures)} timestamps; the timing is variable`
        : `${count(source.pictures)} timestamps, ${source.measured.ppm.toFixed(1)} ppm left`,
      ...(source.variable ? { tone: 'rust' as const } : {}),
    },
  ];
  if (check) {
    const odd = Math.abs(check.verdict.trueRate / check.verdict.storedRate - 1) > 0.001;
    lines.push({
      name: 'True',
      value: formatDecimalRate(check.verdict.trueRate),
      rate: check.verdict.trueRate,
      from: `new pictures a second, ${(check.verdict.certainty * 100).toFixed(1)} % certain`,
      ...(odd ? { tone: 'rust' as const } : {}),
    });
  } else {
    lines.push({ name: 'True', value: '\u2013', rate: null, from: checking ? `check: ${checking.phase}` : 'not checked yet' });
  }
  if (gap?.impliedRate) {
    lines.push({
      name: 'By sound',
      value: formatRate(gap.impliedRate),
      rate: rateToNumber(gap.impliedRate),
      from: 'pictures over the length of the sound',
      tone: 'rust',
    });
  }
  for (const t of uses)
    lines.push({
      name: t.name,
      value: formatRate(t.rate),
      rate: rateToNumber(t.rate),
      from: 'a timeline that uses it',
      tone: 'fjord',
    });
  const most = Math.max(...lines.map((l) => l.rate ?? 0));
  const details = [
    `${source.width}\u00d7${source.height}`,
    source.codec,
    source.pixelFormat,
    source.fields === 'progressive' ? 'progressive' : `${source.fields} field first`,
  ];
  return (
    <aside className={`sheet ${classes.ledger}`} aria-label="Rate ledger">
      <img
        className={classes.preview}
        src={pictureAddress(source.mediaId, Math.floor(source.pictures / 3))}
        alt={`A picture of ${source.name}`}
      />
      <h2 className={classes.title} title={source.name}>
        {source.name}
      </h2>
      <div className="quiet">
        {count(source.pictures)} pictures &middot; {clock(source.seconds)} &middot; {details.join(' \u00b7 ')}
      </div>
      <div className="quiet">
        {source.sound
          ? `sound ${clock(source.sound.seconds)} \u00b7 ${source.sound.codec} \u00b7 ${source.sound.sampleRate / 1000} kHz \u00b7 ${source.sound.channels} ch`
          : 'no sound'}
      </div>
      <h3 className={classes.sub}>Rate ledger</h3>
      {lines.map((line) => (
        <div key={line.name} className={classes.line} data-testid={`ledger-${line.name}`}>
          <span className={classes.lineName}>{line.name}</span>
          <Comb rate={line.rate} most={most} tone={line.tone} />
          <b className={`number ${line.tone === 'rust' ? 'rust' : ''}`} title={line.rate ? exactOf(source, line.name) : ''}>
            {line.value}
          </b>
          <small className="quiet">{line.from}</small>
        </div>
      ))}
      {gap && (
        <div className="notice" data-tone="rust">
          The sound runs {Math.abs(gap.seconds).toFixed(2)} s {gap.seconds > 0 ? 'longer' : 'shorter'} than the pictures.
          {gap.impliedRate && ` Pictures at ${formatRate(gap.impliedRate)} would fit it.`}
        </div>
      )}
      {source.variable && (
        <div className="notice" data-tone="rust">
          Its pictures do not come evenly. On a timeline each is shown by its own timestamp.
        </div>
      )}
      {check && (
        <div className="notice" data-tone={check.verdict.kind === 'new' && check.verdict.held.length === 0 ? 'moss' : 'rust'}>
          {verdictLong(check.verdict)}
        </div>
      )}
      {check && check.decoded !== source.pictures && (
        <div className="notice" data-tone="rust">
          {count(source.pictures)} pictures are listed in the file, {count(check.decoded)} could be decoded.
        </div>
      )}
      <Group gap="xs" mt="sm">
        {check ? (
          <Button size="compact-md" onClick={() => go('check', source.id, check.verdict.held[0] ?? check.verdict.jumps[0])}>
            {check.verdict.held.length > 0 ? 'See the holds' : 'See the check'}
          </Button>
        ) : (
          <Button size="compact-md" onClick={onCheck} loading={checking !== null}>
            Check it
          </Button>
        )}
      </Group>
    </aside>
  );
}

function exactOf(source: Source, name: string): string {
  if (name === 'Stored') return formatExact(source.stored);
  return name === 'Measured' ? formatExact(source.measured.rate) : '';
}

/** Teeth as dense as the rate: the eye compares before the number is read. */
function Comb({ rate, most, tone }: { rate: number | null; most: number; tone?: 'rust' | 'fjord' | undefined }) {
  const teeth = rate === null ? 0 : Math.max(1, Math.round((rate / most) * 30));
  const colour = tone === 'rust' ? 'var(--rust)' : tone === 'fjord' ? 'var(--fjord)' : 'var(--ink)';
  return (
    <svg width="96" height="13" aria-hidden="true">
      {Array.from({ length: teeth }, (_, i) => (
        <rect key={i} x={i * 3.2} y={0} width={1.5} height={13} fill={colour} />
      ))}
    </svg>
  );
}
