import { Button, Group, Modal, TextInput } from '@mantine/core';
import { address, type CheckSummary, type FileState, type JobReply } from '@thawline/contract';
import { formatDecimalRate, formatRate, rateToNumber } from '@thawline/core/time';
import { type Film, fieldWayWords, isMoving, type LedgerLine, ledgerOf, readsUnevenly, type Source } from '@thawline/project';
import { lazy, Suspense, useMemo, useState } from 'react';
import { useProject } from '../../../api/ProjectProvider.js';
import { useTiming } from '../../../api/queries.js';
import { pictureAddress } from '../../../shared/player/pictures.js';
import { CLAIM_HINT, useClaim } from '../../../shared/rates/useClaim.js';
import { useGo } from '../../../shared/state/places.js';
import { WholeWave } from '../../../shared/waveform/WholeWave.js';
import { clock, count, plural, speedWords, verdictLong } from '../../../shared/words.js';
import { hasFields } from '../../fields/model/fields.js';
import type { ReadChoice } from '../model/readings.js';
import { Comb } from './Comb.js';
import { FileNotice } from './FileNotice.js';
import { LostNotice } from './LostNotice.js';
import { PictureFacts, PictureRemarks } from './PictureFacts.js';
import classes from './sources.module.css';

const TimingChart = lazy(async () => ({ default: (await import('./TimingChart.js')).TimingChart }));

const NAMES: Record<LedgerLine['what'], string> = {
  claimed: 'Claimed',
  stored: 'Stored',
  measured: 'Measured',
  fields: 'Fields',
  true: 'True',
  part: 'Part',
  sound: 'By sound',
  read: 'Read at',
};

interface Props {
  readonly source: Source;
  readonly check: CheckSummary | null;
  readonly checking: JobReply | null;
  readonly file: FileState | null;
  readonly onCheck: () => void;
  readonly onReadAt: (suggested: Partial<ReadChoice>) => void;
}

/** All of a source's rates, where each came from, and what to do about what stands out. */
export function Ledger({ source, check, checking, file, onCheck, onReadAt }: Props) {
  const { id, project } = useProject();
  const go = useGo();
  const ledger = useMemo(() => ledgerOf(project, source, check?.verdict ?? null), [project, source, check]);
  const most = Math.max(1, ...ledger.lines.map((l) => l.rate ?? 0), ...ledger.uses.map((u) => rateToNumber(u.rate)));
  const read = ledger.seconds !== null && source.seconds !== undefined && Math.abs(ledger.seconds - source.seconds) > 0.0005;
  return (
    <aside className={`sheet ${classes.ledger}`} aria-label="Rate ledger">
      {source.kind === 'sound' ? (
        <WholeWave source={source} width={268} height={90} className={classes.soundWide} />
      ) : (
        // A file that is gone shows what its proxy kept of it, or nothing.
        (file?.proxy || file?.state !== 'missing') && (
          <img
            className={classes.preview}
            src={pictureAddress(source.mediaId, Math.floor(source.pictures / 3))}
            alt={`A picture of ${source.name}`}
          />
        )
      )}
      <h2 className={classes.title} title={source.name}>
        {source.name}
      </h2>
      <div className="quiet">{factsOf(source)}</div>
      {read && ledger.seconds !== null && (
        <div>
          as read it runs <b className="number">{clock(ledger.seconds)}</b>, <b className="number">{speedWords(ledger.speed)}</b>
          {source.sound && Math.abs(ledger.semitones) > 0.005 && soundWords(source, ledger.semitones)}
        </div>
      )}
      {source.lost && <LostNotice key={source.id} source={source} />}
      {source.endsEarly && (
        <div className="notice" data-tone="rust">
          The file ends before its own header says it does: a part of it is missing. What is told here is what is there. Copy it
          again from where it came.
        </div>
      )}
      {file && file.state !== 'here' && <FileNotice source={source} file={file} />}
      <h3 className={classes.sub}>Rate ledger</h3>
      {isMoving(source) && <Claim source={source} />}
      {ledger.lines.map((line) => (
        <div key={`${line.what} ${line.from}`} className={classes.line} data-testid={`ledger-${NAMES[line.what]}`}>
          <span className={classes.lineName}>{NAMES[line.what]}</span>
          <Comb rate={line.rate} most={most} tone={line.odd ? 'rust' : line.what === 'read' ? 'fjord' : undefined} />
          <b className={`number ${line.odd ? 'rust' : ''}`} title={line.exact ?? ''}>
            {line.rate !== null ? formatDecimalRate(line.rate) : line.what === 'read' ? 'variable' : '\u2013'}
          </b>
          <small className="quiet">
            {line.what === 'true' && checking ? `check: ${checking.phase}` : line.from}
            {line.ppm !== null && `, ${line.ppm.toFixed(1)} ppm left`}
          </small>
        </div>
      ))}
      {ledger.uses.map((use) => (
        <div key={use.timelineId} className={classes.line}>
          <button
            type="button"
            className={classes.plain}
            onClick={() => go('timelines', use.timelineId)}
            title={`Go to ${use.timeline}`}
          >
            {use.timeline}
          </button>
          <Comb rate={rateToNumber(use.rate)} most={most} tone="ice" />
          <b className="number">{formatRate(use.rate)}</b>
          <small className="quiet">a timeline with {plural(use.clips, 'clip')} of it</small>
        </div>
      ))}
      <Notices source={source} check={check} ledger={ledger} onReadAt={onReadAt} />
      <PictureRemarks source={source} />
      <Group gap="xs" mt="sm">
        {isMoving(source) && (
          <Button size="compact-md" variant="default" onClick={() => onReadAt({})}>
            Read at&hellip;
          </Button>
        )}
        {hasFields(source) && (
          <Button size="compact-md" variant="default" onClick={() => go('sources', source.id, 'fields')}>
            Fields&hellip;
          </Button>
        )}
        {isMoving(source) &&
          (check ? (
            <Button
              size="compact-md"
              variant="default"
              onClick={() => go('check', source.id, check.verdict.held[0] ?? check.verdict.jumps[0])}
            >
              {check.verdict.held.length > 0 ? 'See the holds' : 'See the check'}
            </Button>
          ) : (
            <Button size="compact-md" variant="default" onClick={onCheck} loading={checking !== null}>
              Check it
            </Button>
          ))}
        {source.sound && !source.lost && (
          <Button size="compact-md" variant="default" onClick={() => go('align', source.id)}>
            Align it with another
          </Button>
        )}
        <Button
          size="compact-md"
          variant="subtle"
          component="a"
          href={address('ledger', { project: id, source: source.id })}
          download={`${source.name}-ledger.json`}
        >
          Save as JSON
        </Button>
      </Group>
      <PictureFacts source={source} />
    </aside>
  );
}

/** Whether the file says another rate than its timestamps do. Fields that are read otherwise give other pictures, which it says nothing of. */
function statesAnotherRate(source: Source): source is Film {
  if (source.kind !== 'film' || source.variable || source.fieldsRead) return false;
  return formatRate(source.stored) !== formatRate(source.measured.rate);
}

function factsOf(source: Source): string {
  if (source.kind === 'sound')
    return [
      clock(source.sound.seconds),
      'sound alone',
      source.codec,
      `${source.sound.sampleRate / 1000} kHz`,
      plural(source.sound.channels, 'channel'),
    ].join(' \u00b7 ');
  const parts = [`${source.width}\u00d7${source.height}`, source.codec];
  if (source.kind === 'still') return ['a still', ...parts].join(' \u00b7 ');
  const length = source.seconds === undefined ? [] : [clock(source.seconds)];
  const stored = source.fields === 'progressive' ? 'progressive' : `${source.fields} field first`;
  const fields = source.fieldsRead ? `fields read ${fieldWayWords(source.fieldsRead.runs)}` : stored;
  const numbers = source.numbers ? [`numbered ${source.numbers.first} to ${source.numbers.last}`] : [fields];
  const sound = source.sound
    ? [
        `sound ${clock(source.sound.seconds)}`,
        source.sound.codec,
        `${source.sound.sampleRate / 1000} kHz`,
        `${source.sound.channels} ch`,
      ]
    : ['no sound'];
  return [plural(source.pictures, 'picture'), ...length, ...parts, ...numbers, ...sound].join(' \u00b7 ');
}

function soundWords(source: Source, semitones: number): string {
  const moved = `${semitones > 0 ? '+' : '\u2212'}${Math.abs(semitones).toFixed(2)} semitones`;
  switch (source.readAt?.sound ?? 'along') {
    case 'along':
      return `; its sound goes along, ${moved}`;
    case 'pitch':
      return `; its sound keeps its pitch (else ${moved})`;
    case 'own':
      return '; its sound stays at its own rate';
    default:
      return '; its sound is left out';
  }
}

/** What stands out as sentences, each with what to do about it. */
function Notices({
  source,
  check,
  ledger,
  onReadAt,
}: Pick<Props, 'source' | 'check' | 'onReadAt'> & { ledger: ReturnType<typeof ledgerOf> }) {
  const [chart, setChart] = useState(false);
  const timing = useTiming(source.variable ? source : undefined);
  const { gap, claim } = ledger;
  // 13.889 is no rate that anybody takes: such a one is there for who asks for it.
  const implied = gap?.standard ? gap.impliedRate : null;
  const fits = implied && source.readAt && rateToNumber(source.readAt.rate) === rateToNumber(implied);
  const { numbers } = source;
  return (
    <>
      {gap && (
        <div className="notice" data-tone={fits ? 'moss' : 'rust'}>
          The sound runs {Math.abs(gap.seconds).toFixed(2)} s {gap.seconds > 0 ? 'longer' : 'shorter'} than the pictures as
          stored.
          {gap.impliedRate && !implied && (
            <>
              {' '}
              No usual rate makes them as long as it is.
              <button type="button" className={classes.do} onClick={() => onReadAt({})}>
                Read at another rate&hellip;
              </button>
            </>
          )}
          {implied && (fits ? ` Read at ${formatRate(implied)} they fit.` : ` Pictures at ${formatRate(implied)} would fit it.`)}
          {implied && !fits && (
            <button type="button" className={classes.do} onClick={() => onReadAt({ origin: 'sound' })}>
              Read at {formatRate(implied)}&hellip;
            </button>
          )}
          <GapPicture source={source} />
        </div>
      )}
      {statesAnotherRate(source) && source.measured && (
        <div className="notice" data-tone="rust">
          The file says {formatRate(source.stored)}, its timestamps say {formatRate(source.measured.rate)}. The timestamps count
          here.
        </div>
      )}
      {source.variable && (
        <div className="notice" data-tone="rust">
          {readsUnevenly(source)
            ? 'Its pictures do not come evenly. On a timeline each is shown by its own timestamp.'
            : 'Its pictures do not come evenly by themselves; as read they do.'}
          {timing?.kind === 'variable' && source.measured && (
            <Suspense>
              <TimingChart timing={timing} usual={1000 / rateToNumber(source.measured.rate)} />
            </Suspense>
          )}
          <Group gap="md">
            <button type="button" className={classes.do} onClick={() => setChart(true)}>
              See every gap
            </button>
            <button type="button" className={classes.do} onClick={() => onReadAt({ pictures: 'even' })}>
              Make the timing even&hellip;
            </button>
          </Group>
          {chart && timing?.kind === 'variable' && source.measured && (
            <Modal opened onClose={() => setChart(false)} title={`Time between pictures of ${source.name}, in ms`} size={980}>
              <div className={classes.wide}>
                <Suspense>
                  <TimingChart timing={timing} usual={1000 / rateToNumber(source.measured.rate)} />
                </Suspense>
              </div>
            </Modal>
          )}
        </div>
      )}
      {numbers && numbers.missing > 0 && (
        <div className="notice" data-tone="rust">
          {plural(numbers.missing, 'number')} between {numbers.first} and {numbers.last} {numbers.missing === 1 ? 'has' : 'have'}{' '}
          no picture: those after close up.
        </div>
      )}
      {claim && source.claimed && (
        <div className="notice" data-tone={claim.kept ? 'moss' : 'rust'} data-testid="claim-verdict">
          {claim.kept
            ? `The camera claimed ${formatRate(source.claimed)}, and every picture is new: the claim holds.`
            : `The camera claimed ${formatRate(source.claimed)}; what is here fits ${Number(claim.fits.toFixed(3))}.`}
          {ledger.uses[0] &&
            ` On ${ledger.uses[0].timeline} it stays smooth down to 1/${Number((claim.fits / rateToNumber(ledger.uses[0].rate)).toFixed(2))} speed.`}
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
    </>
  );
}

/** What the camera is said to take, typed by hand. */
function Claim({ source }: { source: Source }) {
  const { typed, type, wrong, keep } = useClaim(source);
  return (
    <TextInput
      size="xs"
      label="The camera claims"
      placeholder="pictures a second"
      className={classes.claim ?? ''}
      value={typed}
      error={wrong ? CLAIM_HINT : undefined}
      onChange={(e) => type(e.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(e) => e.key === 'Enter' && keep()}
    />
  );
}

/** Width of the two lengths beside each other, in pixels. */
const GAP_WIDTH = 240;

/** Pictures and sound on one line of time, as the file has them: where one ends before the other is seen. */
function GapPicture({ source }: { source: Source }) {
  const [pictures, sound] = [source.seconds ?? 0, source.sound?.seconds ?? 0];
  const perSecond = GAP_WIDTH / Math.max(pictures, sound, 1e-3);
  return (
    <div className={classes.gap}>
      <i style={{ width: pictures * perSecond }} title={`Pictures: ${pictures.toFixed(2)} s`} />
      <WholeWave source={source} width={Math.max(1, Math.round(sound * perSecond))} height={30} />
    </div>
  );
}
