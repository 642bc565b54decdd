import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rateToNumber } from '@thawline/core/time';
import { demoClips, SKIFF, type Truth } from '@thawline/rig';

/** The shell as a person has it: the compiled command, its output and its exit code. */
const bin = new URL('../bin/thawline.mjs', import.meta.url).pathname;
const root = new URL('../../..', import.meta.url).pathname;
const rigFolder = join(root, '.cache', 'rig-half');
const folder = mkdtempSync(join(tmpdir(), 'thawline-cli-'));

function thawline(...args: string[]): { code: number | null; out: string; err: string } {
  const run = spawnSync(process.execPath, [bin, ...args], { encoding: 'utf8', cwd: folder, maxBuffer: 64 << 20 });
  return { code: run.status, out: run.stdout, err: run.stderr };
}

const json = (...args: string[]) => {
  const run = thawline(...args, '--json');
  if (run.code !== 0) throw new Error(run.err);
  return JSON.parse(run.out);
};

beforeAll(() => {
  // The demo's clips, made once and kept: the browser's story uses the same.
  const made = spawnSync(process.execPath, [join(root, 'scripts', 'rig.mjs'), rigFolder, 'half'], { encoding: 'utf8' });
  if (made.status !== 0) throw new Error(made.stderr);
}, 300_000);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const clips = demoClips();
const names = clips.filter((c) => c.form === 'film').map((c) => c.name);
const truthOf = (name: string): Truth => JSON.parse(readFileSync(join(rigFolder, `${name}.truth.json`), 'utf8')) as Truth;

describe('against the truth of the made-up clips', () => {
  let probes: ReturnType<typeof json>[] = [];
  beforeAll(() => {
    const all = thawline('probe', ...names.map((name) => join(rigFolder, `${name}.mp4`)), '--json');
    probes = all.out
      .trim()
      .split('\n')

      .map((line) => JSON.parse(line));
  });

  test.each(names)('probe of %s', (name) => {
    const truth = truthOf(name);
    const probe = probes[names.indexOf(name)] ?? {};
    expect(probe).toMatchObject({
      pictures: truth.pictures,
      stored: truth.stored,
      variable: truth.variable,
      fields: truth.fields,
      codec: 'h264',
    });
    if (!truth.variable) expect(probe.measured).toMatchObject(truth.stored);
    else expect(probe.measured.num / probe.measured.den).toBeCloseTo(truth.trueRate, 2);
    expect(probe.sound?.seconds ?? null).toEqual(truth.soundSeconds === null ? null : expect.closeTo(truth.soundSeconds, 1));
    expect(probe.gap?.impliedRate ?? null).toEqual(truth.impliedRate);
  });

  // Both skiffs are plain, and long: aligning below takes them.
  test.each(names.filter((name) => !name.startsWith('skiff')))('check of %s', (name) => {
    const truth = truthOf(name);
    const check = json('check', join(rigFolder, truth.file));
    expect(check).toMatchObject({ pictures: truth.pictures, kind: truth.kind, held: truth.held, jumps: truth.jumps, blends: [] });
    const { cuts, faults, partRates } = truth;
    expect(check).toMatchObject({
      cuts,
      faults,
      regions: partRates.map((trueRate) => ({ trueRate: expect.closeTo(trueRate, 2) })),
    });
    expect(Math.abs(check.trueRate / truth.trueRate - 1)).toBeLessThan(0.005);
    const stretches = truth.stretches ?? [{ to: truth.pictures, pattern: truth.pattern }];
    // Where two kinds of material meet, one frame may be of both.
    expect(check.stretches).toMatchObject(
      stretches.map(({ to, pattern }, i) => ({ to: i + 1 < stretches.length ? expect.closeTo(to, -0.5) : to, pattern })),
    );
  });
});

test.each([
  ['interleave_top', 'tff', { kind: 'interlaced', first: 'top', flag: 'right', breaks: [] }],
  ['interleave_bottom', 'tff', { kind: 'interlaced', first: 'bottom', flag: 'wrong', breaks: [] }],
])('a check of fields woven by %s and flagged %s', (weave, flag, fields) => {
  const file = join(folder, `${weave}.mpg`);
  const made = spawnSync('ffmpeg', [
    ...['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=320x240:r=50:d=2'],
    ...['-vf', `tinterlace=${weave},setfield=${flag}`, '-flags', '+ilme+ildct', '-c:v', 'mpeg2video', '-q:v', '4', file],
  ]);
  expect(made.status).toBe(0);
  expect(json('check', file)).toMatchObject({ fields, regions: [], held: [], trueRate: 25 });
});

describe('fields', () => {
  const tape = join(folder, 'tape.mkv');
  const reel = join(folder, 'reel.mkv');
  beforeAll(() => {
    const make = (path: string, input: string, filter: string, rate: string): void => {
      const from = ['-f', 'lavfi', '-i', `testsrc2=s=160x120:r=${input}`];
      const coded = ['-vf', filter, '-r', rate, '-c:v', 'ffv1', path];
      expect(spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...from, ...coded]).status).toBe(0);
    };
    make(tape, '50:d=2', 'interlace=scan=bff:lowpass=off', '25');
    make(reel, '24000/1001:d=4', 'telecine=first_field=top:pattern=23', '30000/1001');
  });

  test('each read as a picture, at the rate that this gives, in the order that is measured', () => {
    const made = json('make', tape, 'fields.mkv', '--fields', 'one-a-field');
    expect(made).toMatchObject({ frames: 100, real: 100, rate: { num: 50, den: 1 } });
    expect(made.fields).toEqual([{ from: 0, to: 50, way: 'one-a-field', first: 'bottom' }]);
    expect(json('probe', join(folder, 'fields.mkv'))).toMatchObject({ pictures: 100, measured: { num: 50, den: 1 } });
  });

  test('film comes out of pulldown; where there is none it is said, and nothing is written', () => {
    expect(json('make', reel, 'film.mkv', '--fields', 'film')).toMatchObject({ frames: 96, rate: { num: 24000, den: 1001 } });
    const none = thawline('make', tape, 'none.mkv', '--fields', 'film');
    expect(none).toMatchObject({ code: 1, out: '' });
    expect(none.err).toContain('No film was found in the fields of');
    expect(readdirSync(folder)).not.toContain('none.mkv');
  });

  test('one a frame at a rate of its own, in an order that is said', () => {
    const made = json('make', tape, 'frames.mkv', '--fields', 'one-a-frame', '--order', 'top', '--rate', '25');
    expect(made).toMatchObject({ frames: 50, fields: [{ way: 'one-a-frame', first: 'top' }] });
  });

  test('two fields a frame, each at its own moment: a clip of 50 loses nothing, and its own check and FFmpeg read it so', () => {
    const fast = join(folder, 'fast.mkv');
    const input = ['-f', 'lavfi', '-i', 'testsrc2=s=320x240:r=50:d=2'];
    expect(spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...input, '-c:v', 'ffv1', fast]).status).toBe(0);
    expect(json('make', fast, 'woven.mp4', '--rate', '25', '--interlaced', 'bottom')).toMatchObject({ frames: 50, real: 100 });
    expect(json('probe', join(folder, 'woven.mp4'))).toMatchObject({
      pictures: 50,
      fields: 'bottom',
      measured: { num: 25, den: 1 },
    });
    expect(json('check', join(folder, 'woven.mp4')).fields).toMatchObject({ kind: 'interlaced', first: 'bottom', flag: 'right' });
    const idet = spawnSync('ffmpeg', ['-nostdin', '-i', join(folder, 'woven.mp4'), '-vf', 'idet', '-f', 'null', '-'], {
      encoding: 'utf8',
    });
    const [, tops, bottoms] = /Multi frame detection: TFF:\s*(\d+) BFF:\s*(\d+)/.exec(idet.stderr) ?? [];
    expect([Number(tops), Number(bottoms) >= 45]).toEqual([0, true]);
    // Read one picture a field, it is what it was: lines of each field bit for bit where nothing was coded away.
    json('make', fast, 'lossless.mkv', '--rate', '25', '--interlaced', 'top');
    expect(json('make', 'lossless.mkv', 'again.mkv', '--fields', 'one-a-field')).toMatchObject({ frames: 100 });
  });

  test('film goes back into fields by 2:3, and comes out again', () => {
    const film = join(folder, 'only-film.mkv');
    const input = ['-f', 'lavfi', '-i', 'testsrc2=s=160x120:r=24000/1001:d=4'];
    expect(spawnSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', ...input, '-c:v', 'ffv1', film]).status).toBe(0);
    const made = json('make', film, 'spread.mkv', '--rate', '23.976', '--pulldown', '2:3');
    expect(made).toMatchObject({ frames: 120, rate: { num: 30000, den: 1001 } });
    expect(json('make', 'spread.mkv', 'back.mkv', '--fields', 'film')).toMatchObject({
      frames: 96,
      rate: { num: 24000, den: 1001 },
    });
    expect(json('compare', film, join(folder, 'back.mkv'))).toMatchObject({ droppedFromA: [], repeatedInB: [], speed: 1 });
  });
});

test('folders and many files are probed in order, numbered pictures as one, and what is no material is counted', () => {
  for (const name of ['a.txt', 'b.txt', '.hidden.mp4', 'c.xml']) writeFileSync(join(folder, name), 'x');
  const many = thawline(
    'probe',
    join(rigFolder, 'jetty-pan.mp4'),
    join(rigFolder, 'icicle-drip'),
    folder,
    '--json',
    '--rate',
    '24',
  );
  expect(many.code).toBe(0);
  const lines = many.out
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { kind: string; pictures: number; stored: unknown });
  expect(lines[0]).toMatchObject({ kind: 'film', pictures: 240 });
  expect(lines[1]).toMatchObject({ kind: 'sequence', pictures: 48, stored: null });
  expect(many.err).toContain('.txt 2');
  expect(many.err).toContain('hidden 1');
});

test('a still has no rate; a table of all has one header and a row each', () => {
  const still = join(rigFolder, 'ridge-still', 'ridge-still.png');
  expect(json('probe', still)).toMatchObject({ kind: 'still', stored: null, measured: null, seconds: null, gap: null });
  const csv = thawline('probe', still, join(rigFolder, 'skipper-interview.mp4'), '--csv');
  const [head, first, second] = csv.out
    .trim()
    .split('\r\n')
    .map((line) => line.split(','));
  expect(head?.slice(0, 3)).toEqual(['file', 'kind', 'pictures']);
  expect(first?.[1]).toBe('still');
  expect(second?.[head?.indexOf('impliedRate') ?? 0]).toBe('25');
  expect(csv.out.trim().split('\r\n')).toHaveLength(3);
});

test('one bad file among many is told and the others are still printed', () => {
  writeFileSync(join(folder, 'text.mov'), 'nothing to see');
  const run = thawline('probe', join(folder, 'text.mov'), join(rigFolder, 'floe-drift.mp4'), '--json');
  expect(run.code).toBe(1);
  expect(run.err).toContain('text.mov');
  expect(JSON.parse(run.out)).toMatchObject({ pictures: 400 });
});

/**
 * Pictures of a clip from its first on, half as wide and high: what is told of them is the same, and takes a quarter of the time.
 * @param of one in so many of its pictures
 */
function start(name: string, pictures: number, of = 1): string {
  const path = join(folder, `${name}-${pictures}-${of}.mkv`);
  const read = ['-nostdin', '-v', 'error', '-y', '-i', join(rigFolder, `${name}.mp4`), '-an', '-frames:v', String(pictures)];
  const pick = of > 1 ? `select=not(mod(n\\,${of})),setpts=N/5/TB,` : '';
  const rate = of > 1 ? ['-r', '5'] : [];
  spawnSync('ffmpeg', [...read, '-vf', `${pick}scale=iw/2:ih/2:flags=area`, ...rate, '-c:v', 'ffv1', path]);
  return path;
}

test('make says what it made, and probe agrees', () => {
  const made = json('make', join(rigFolder, 'jetty-pan.mp4'), 'out.mkv', '--rate', '24000/1001', '--method', 'blend');
  expect(made).toMatchObject({ frames: 192, held: 0 });
  expect(json('probe', 'out.mkv')).toMatchObject({ pictures: 192, measured: { num: 24000, den: 1001 }, width: 320, height: 180 });
});

test('make slows a clip down with pictures made by motion, and heldout says what its material allows', () => {
  const short = join(folder, 'short.mkv');
  const all = start('jetty-pan', 6, 40);
  const made = json('make', all, short, '--rate', '5', '--speed', '1/2', '--method', 'motion');
  expect(made).toMatchObject({ frames: 12, real: 6, made: 5, held: 1, speed: { num: 1, den: 2 } });
  expect(made.leastCertainty).toBeGreaterThanOrEqual(0);
  const found = json('heldout', short);
  expect(found.perPicture.map((p: { picture: number }) => p.picture)).toEqual([1, 3, 5, 7, 9]);
  expect(found.psnr).toBeGreaterThan(10);
  const mixed = ['stored', 'light'].map((mix) => {
    json('make', all, `${mix}.mkv`, '--rate', '10', '--method', 'blend', '--mix', mix);
    return readFileSync(join(folder, `${mix}.mkv`));
  });
  expect(Buffer.compare(mixed[0] as Buffer, mixed[1] as Buffer)).not.toBe(0);
});

test('pan says how fast a point crosses the frame, at any rate', () => {
  const pan = start('jetty-pan', 30);
  const { shifts, pans } = json('pan', pan);
  expect(shifts).toHaveLength(30);
  // 156 of 640 pixels a second: across in 4.1 s.
  expect(pans).toMatchObject([{ from: 0, to: 30 }]);
  expect(Math.abs(pans[0].seconds - 640 / 156)).toBeLessThan(0.15);
  // What counts is how far it moves from one shown frame to the next: slower it is no calmer as long as each picture is a frame.
  expect(json('pan', pan, '--rate', '15').pans).toMatchObject([{ from: 0, to: 30 }]);
  expect(thawline('pan', start('warden-interview', 25)).out).toMatch(/nothing crosses the frame in under 6.7 s/);
});

test('make follows a curve, backward too, and says what is wrong with one', () => {
  const pins = (name: string, value: unknown): string => {
    const path = join(folder, name);
    writeFileSync(path, JSON.stringify(value));
    return path;
  };
  const source = start('jetty-pan', 6, 40);
  const ramp = [
    { frame: 0, picture: 5 },
    { frame: 5, picture: 0, way: 'held' },
    { frame: 8, picture: 0 },
  ];
  const made = json('make', source, 'back.mkv', '--rate', '5', '--curve', pins('back.json', ramp));
  expect(made).toMatchObject({ frames: 9, real: 6, held: 3, made: 0 });
  // What ran backward and forward again is what it was.
  thawline(
    'make',
    'back.mkv',
    'again.mkv',
    '--rate',
    '5',
    '--curve',
    pins('again.json', [
      { frame: 0, picture: 5 },
      { frame: 5, picture: 0 },
    ]),
  );
  expect(json('compare', source, 'again.mkv')).toMatchObject({ offsetSeconds: 0, speed: 1, droppedFromA: [], repeatedInB: [] });
  const wrong = pins('wrong.json', [{ frame: 0, picture: 6 }]);
  expect(thawline('make', source, 'x.mkv', '--rate', '5', '--curve', wrong).err).toMatch(/there are 0 to 5/);
});

test('a part of a file is checked in its own numbers, and of its pictures a region', () => {
  const hero = join(rigFolder, 'calving-hero.mp4');
  const part = json('check', hero, '--pictures', '60-120', '--region', '0,0,480,270');
  expect(part).toMatchObject({ kind: 'padded', counter: null });
  expect(part.trueRate).toBeCloseTo(25 / 3, 1);
  expect(Math.min(...part.held)).toBeGreaterThanOrEqual(60);
  expect(Math.max(...part.held)).toBeLessThan(120);
});

test('compare says what became of each picture, and exits 1 where two files show different things', () => {
  const pan = start('jetty-pan', 120);
  thawline('make', pan, 'pan-25.mkv', '--rate', '25');
  const same = json('compare', pan, 'pan-25.mkv');
  expect(same).toMatchObject({ rateA: { num: 30000, den: 1001 }, rateB: { num: 25, den: 1 }, repeatedInB: [], blendsInB: [] });
  expect(same.certainty).toBeGreaterThan(0.9);
  expect(same.speed).toBeCloseTo(1, 2);
  // Frame n of 25 shows picture floor(n * 1.1988).
  const wrong = (same.path as [number, number][]).filter(([a, b]) => a !== Math.floor((b * 30000) / 25025));
  expect(wrong.length).toBeLessThanOrEqual(0.02 * same.path.length);
  const other = thawline('compare', pan, start('floe-drift', 100), '--json');
  expect(other.code).toBe(1);
  expect(JSON.parse(other.out).certainty).toBeLessThan(0.5);
});

test('failures exit 1 with a sentence that names the file, and leave nothing', () => {
  writeFileSync(join(folder, 'text.mov'), 'nothing to see');
  for (const args of [
    ['probe', 'text.mov'],
    ['check', 'gone.mp4'],
    ['make', 'text.mov', 'never.mkv', '--rate', '25'],
  ]) {
    const run = thawline(...args);
    expect(run.code).toBe(1);
    expect(run.out).toBe('');
    expect(run.err).toContain(args[1]);
  }
  expect(readdirSync(folder).filter((n) => n.includes('never'))).toEqual([]);
});

test('a wrong call exits 2 with the usage', () => {
  const run = thawline('dance');
  expect(run).toMatchObject({ code: 2, out: '' });
  expect(run.err).toContain('thawline probe FILE|FOLDER');
});

describe('align', () => {
  const file = (name: string): string => join(rigFolder, `${name}.mp4`);

  test('two cameras of one event: offset, exact speed, what is left over', () => {
    const found = json('align', file('skiff-a'), file('skiff-b'));
    expect(found.certainty).toBeGreaterThan(0.95);
    expect(Math.abs(found.offsetSeconds - SKIFF.offsetSeconds)).toBeLessThan(0.001);
    // Forty seconds, and AAC in both: 2 ppm are 0.08 ms.
    expect(Math.abs(found.driftPpm - (rateToNumber(SKIFF.ratio) - 1) * 1e6)).toBeLessThan(4);
    for (const left of Object.values(found.leftOverMs)) expect(Math.abs(Number(left))).toBeLessThan(0.2);
    for (const { a, b } of found.ties) expect(Math.abs(b - found.offsetSeconds - found.ratio * a)).toBeLessThan(0.001);
    const strikes = truthOf('skiff-a').strikes;
    expect(strikes.some((s) => Math.abs(s - found.ties[0].a) < 0.003)).toBe(true);
  });

  test('sounds of two events do not match: exit 1', () => {
    const run = thawline('align', file('skiff-a'), file('warden-interview'), '--json');
    expect(run.code).toBe(1);
    expect(JSON.parse(run.out).certainty).toBeLessThan(0.5);
  });

  test('without sound there is a sentence', () => {
    const run = thawline('align', file('skiff-a'), file('calving-hero'));
    expect([run.code, run.out]).toEqual([1, '']);
    expect(run.err).toContain('calving-hero.mp4 has no sound.');
  });
});
