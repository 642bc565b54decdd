import { randomBytes } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { type AddressInfo, connect, createServer as createPlain, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rate } from '@thawline/core/time';
import { type Desk, type DeskSpec, NOTHING_SENT, type Sending, type Started, type Verdict } from '@thawline/desk';
import { httpDesk } from '@thawline/desk/http';
import { ffmpeg } from '@thawline/media';
import { createDesk } from './desk.js';
import { checkHere } from './examine.js';

/** What every desk does, run on the one that ships, over a line that is cut at random places. */
const folder = mkdtempSync(join(tmpdir(), 'thawline-desk-'));
/** The gate runs much beside it. */
const CALM = { answer: 60_000, stall: 60_000, retries: [10, 20, 40, 80, 80, 80, 80, 80] };
const QUICK = { answer: 700, stall: 1500, retries: [10, 20, 40, 80, 80, 80, 80, 80] };
const SPEC: DeskSpec = {
  name: 'Test desk',
  rates: [rate(25)],
  sizes: [],
  endings: ['mp4', 'bin'],
  loudness: null,
  peak: -1,
  heldPictures: false,
  fields: 'any',
  timecode: 'any',
  bytes: 50_000_000,
};

let server: Server;
let address: string;
let desk: Desk;
beforeAll(async () => {
  server = await createDesk(folder, SPEC, checkHere);
  address = await listening(server);
  desk = httpDesk(address, CALM);
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
  rmSync(folder, { recursive: true, force: true });
});

async function listening(on: Server | ReturnType<typeof createPlain>): Promise<string> {
  await new Promise<void>((resolve) => on.listen(0, '127.0.0.1', resolve));
  return `http://127.0.0.1:${(on.address() as AddressInfo).port}`;
}

function sending(path: string, started: Started = NOTHING_SENT, more: Partial<Sending> = {}): Sending & { notes: Started[] } {
  const notes: Started[] = [];
  const bytes = readFileSync(path).length;
  const remember = async (now: Started): Promise<void> => void notes.push(now);
  return {
    path,
    name: path.slice(path.lastIndexOf('/') + 1),
    bytes,
    started,
    remember,
    progress: () => undefined,
    notes,
    ...more,
  };
}

async function verdictOf(delivery: string, of: Desk = desk): Promise<Verdict> {
  for (let waited = 0; waited < 1200; waited++) {
    const verdict = await of.verdict(delivery);
    if (verdict) return verdict;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error('the desk never answers');
}

/** A small film, its pictures by number. */
async function film(name: string, numbers: readonly number[], pace = rate(25)): Promise<string> {
  const path = join(folder, name);
  const [width, height] = [96, 54];
  const picture = (k: number): Uint8Array =>
    Uint8Array.from({ length: (width * height * 3) / 2 }, (_, i) =>
      i < width * height
        ? 120 + 60 * Math.sin(((i % width) + k * 2.3) * 0.25) * Math.cos(Math.floor(i / width) * 0.2 + k * 0.05)
        : 128,
    );
  await ffmpeg.encode(path, { width, height, rate: pace, pixelFormat: 'yuv420p', form: 'mp4' }, numbers.map(picture));
  return path;
}
const COUNT = Array.from({ length: 50 }, (_, k) => k);

test('it says what it wants', async () => {
  expect(await desk.specification()).toEqual(SPEC);
});

test('what is as it should be is accepted', async () => {
  const path = await film('good.mp4', COUNT);
  expect(await verdictOf(await desk.send(sending(path)))).toEqual({ state: 'accepted' });
});

test('a desk that wants fields looks for them', async () => {
  const other = await createDesk(mkdtempSync(join(folder, 'fields-')), { ...SPEC, fields: 'top' }, checkHere);
  const own = httpDesk(await listening(other), CALM);
  try {
    const path = await film('whole.mp4', COUNT);
    const verdict = await verdictOf(await own.send(sending(path)), own);
    expect(verdict).toEqual({
      state: 'refused',
      reasons: [{ what: 'fields', wanted: 'top field first', found: 'whole pictures' }],
    });
  } finally {
    other.closeAllConnections();
    other.close();
  }
});

test('what is not is refused with every reason', async () => {
  const held = await film(
    'held.mp4',
    COUNT.map((k) => (k === 20 ? 19 : k)),
    rate(24),
  );
  const verdict = await verdictOf(await desk.send(sending(held)));
  expect(verdict).toMatchObject({ state: 'refused', reasons: [{ what: 'rate' }, { what: 'held', found: '1 of them' }] });
  const text = join(folder, 'text.bin');
  writeFileSync(text, 'no film at all');
  expect(await verdictOf(await desk.send(sending(text)))).toMatchObject({ state: 'refused', reasons: [{ what: 'ending' }] });
});

test('cut off at random places it goes on where it stopped and arrives bit by bit', async () => {
  const bytes = randomBytes(6_000_000);
  const path = join(folder, 'large.bin');
  writeFileSync(path, bytes);
  const { url, cuts, close } = await cutting(address, [150_000, 900_000, 40_000, 2_100_000, 1]);
  const one = sending(path);
  await httpDesk(url, CALM).send(one);
  close();
  expect(cuts()).toBeGreaterThanOrEqual(3);
  const id = one.notes[0]?.upload?.split('/').at(-1) ?? '';
  expect(Buffer.compare(readFileSync(join(folder, 'uploads', id)), bytes)).toBe(0);
});

test('begun by one that was ended, it is finished by the next from its notes alone', async () => {
  const bytes = randomBytes(3_000_000);
  const path = join(folder, 'resumed.bin');
  writeFileSync(path, bytes);
  const stop = new AbortController();
  const line = await cutting(address, [], 40_000);
  const first = sending(path, NOTHING_SENT, { signal: stop.signal, progress: (sent) => sent > 400_000 && stop.abort() });
  await expect(httpDesk(line.url, CALM).send(first)).rejects.toMatchObject({ code: 'aborted' });
  line.close();
  const upload = first.notes.at(-1)?.upload ?? '';
  // The address is the line's, which is gone: the desk itself is asked under its own.
  const started = { upload: upload.replace(/^http:\/\/[^/]+/, address), delivery: null };
  const sent: number[] = [];
  const second = sending(path, started, { progress: (n) => void sent.push(n) });
  const delivery = await desk.send(second);
  expect(sent[0]).toBeGreaterThan(0);
  expect(second.notes.at(-1)?.delivery).toBe(delivery);
  expect(readdirSync(join(folder, 'uploads')).filter((n) => n === upload.split('/').at(-1))).toHaveLength(1);
  expect(Buffer.compare(readFileSync(join(folder, 'uploads', upload.split('/').at(-1) ?? '')), bytes)).toBe(0);
  // Handed over already: nothing is sent again.
  expect(await desk.send(sending(path, { upload, delivery }))).toBe(delivery);
});

test('a desk that is not there, says nothing, or says nonsense is told, and nobody waits for ever', async () => {
  const path = join(folder, 'small.bin');
  writeFileSync(path, randomBytes(1000));
  await expect(httpDesk('http://127.0.0.1:1', QUICK).specification()).rejects.toMatchObject({ code: 'desk-gone' });
  await expect(httpDesk('http://127.0.0.1:1', QUICK).send(sending(path))).rejects.toMatchObject({ code: 'desk-gone' });
  const heard: Socket[] = [];
  const silent = createPlain((socket) => void heard.push(socket));
  const mute = httpDesk(await listening(silent), QUICK);
  await expect(mute.specification()).rejects.toMatchObject({ code: 'desk-silent' });
  await expect(mute.send(sending(path))).rejects.toMatchObject({ code: 'desk-silent' });
  for (const socket of heard) socket.destroy();
  silent.close();
  for (const answer of ['not json', '{"name": 5}', 'x'.repeat(2_000_000)]) {
    const odd = createServer((_: IncomingMessage, response: ServerResponse) => void response.end(answer));
    await expect(httpDesk(await listening(odd), QUICK).specification()).rejects.toMatchObject({ code: 'desk-wrong' });
    odd.closeAllConnections();
    odd.close();
  }
  const refusing = createServer((_, response) => void response.writeHead(403).end());
  await expect(httpDesk(await listening(refusing), QUICK).send(sending(path))).rejects.toMatchObject({ code: 'desk-wrong' });
  refusing.closeAllConnections();
  refusing.close();
  await expect(desk.verdict('no-such-delivery')).rejects.toMatchObject({ code: 'desk-gone' });
});

test('more than it takes is refused before it is sent', async () => {
  const path = join(folder, 'small.bin');
  await expect(desk.send(sending(path, NOTHING_SENT, { bytes: SPEC.bytes ? SPEC.bytes + 1 : 0 }))).rejects.toMatchObject({
    code: 'desk-wrong',
  });
});

/** A line to an address that is cut after so many bytes were sent, each time once; `slow` bytes at a time, 20 ms apart. */
async function cutting(target: string, after: readonly number[], slow = 0) {
  const { port } = new URL(target);
  const left = [...after];
  let made = 0;
  const sockets = new Set<Socket>();
  const line = createPlain((socket) => {
    const cut = left.shift() ?? Number.POSITIVE_INFINITY;
    const other = connect(Number(port), '127.0.0.1');
    let sent = 0;
    for (const one of [socket, other]) {
      sockets.add(one);
      one.on('error', () => undefined);
    }
    socket.on('data', (data: Buffer) => {
      sent += data.length;
      if (sent >= cut) {
        made++;
        socket.destroy();
        other.destroy();
        return;
      }
      other.write(data);
      if (slow > 0) {
        socket.pause();
        setTimeout(() => socket.resume(), 20);
      }
    });
    other.on('data', (data) => socket.write(data));
    socket.on('close', () => other.destroy());
    other.on('close', () => socket.destroy());
  });
  const url = await listening(line);
  const close = (): void => {
    for (const socket of sockets) socket.destroy();
    line.close();
  };
  return { url, cuts: () => made, close };
}
