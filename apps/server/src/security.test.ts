import { request as httpRequest, type IncomingHttpHeaders } from 'node:http';
import { ERROR_CODES, ERROR_SENTENCES, type ProjectState } from '@thawline/contract';
import { TestServer } from './server.fixture.js';

/** Who is let in, and what every reply says to the browser. */
const server = new TestServer();
beforeAll(() => server.start());
afterAll(() => server.remove());

interface Reply {
  readonly status: number;
  readonly headers: IncomingHttpHeaders;
  readonly text: string;
}

function send(
  path: string,
  { method = 'GET', headers = {}, body = '' }: { method?: string; headers?: Record<string, string>; body?: string } = {},
  url = server.url,
): Promise<Reply> {
  const { port, host } = new URL(url);
  return new Promise((resolve, reject) => {
    const request = httpRequest({ host: '127.0.0.1', port, path, method, headers: { host, ...headers } }, (response) => {
      let text = '';
      response.on('data', (chunk) => {
        text += String(chunk);
      });
      response.on('end', () => resolve({ status: response.statusCode ?? 0, headers: response.headers, text }));
    });
    request.on('error', reject);
    request.end(body);
  });
}

const json = { 'content-type': 'application/json' };

test('every reply, refusals too, isolates the page and says nothing of what serves it', async () => {
  const replies = [
    await send('/'),
    await send('/api/health'),
    await send('/api/nothing'),
    await send('/api/health', { headers: { host: 'example.org' } }),
    await send('/api/uploads', { method: 'POST', headers: { 'tus-resumable': '1.0.0' } }),
    await send('/assets/none.js'),
  ];
  expect(replies.map((r) => r.status)).toEqual([200, 200, 404, 403, 400, 404]);
  for (const { headers } of replies) {
    expect(headers).toMatchObject({
      'cross-origin-opener-policy': 'same-origin',
      'cross-origin-embedder-policy': 'require-corp',
      'cross-origin-resource-policy': 'same-origin',
      'referrer-policy': 'no-referrer',
      'x-content-type-options': 'nosniff',
      'x-frame-options': 'DENY',
    });
    const policy = headers['content-security-policy'];
    for (const part of [
      "default-src 'self'",
      "base-uri 'none'",
      "form-action 'self'",
      "frame-ancestors 'none'",
      "object-src 'none'",
    ])
      expect(policy).toContain(part);
    expect(headers['x-powered-by']).toBeUndefined();
    expect(headers['access-control-allow-origin']).toBeUndefined();
  }
  expect(replies[5]?.text).not.toContain('<html');
});

test('another site is refused whatever it sends; a link to a page is followed', async () => {
  const site = (value: string, more: Record<string, string> = {}) => ({ headers: { 'sec-fetch-site': value, ...more } });
  expect((await send('/api/projects', site('cross-site'))).status).toBe(403);
  expect((await send('/api/projects', site('same-site'))).status).toBe(403);
  expect((await send('/api/projects', site('same-origin'))).status).toBe(200);
  expect((await send('/api/projects', site('none'))).status).toBe(200);
  expect((await send('/', site('cross-site', { 'sec-fetch-mode': 'navigate' }))).status).toBe(200);
  expect((await send('/api/projects', site('cross-site', { 'sec-fetch-mode': 'navigate' }))).status).toBe(403);
  expect((await send('/', site('cross-site', { 'sec-fetch-mode': 'no-cors' }))).status).toBe(403);
});

test.each(['application/x-www-form-urlencoded', 'text/plain', 'text/plain; application/json'])(
  'a body of %s is refused: a form of another page could send it',
  async (type) => {
    const reply = await send('/api/projects', { method: 'POST', headers: { 'content-type': type }, body: '{"name":"X"}' });
    expect([reply.status, JSON.parse(reply.text).code]).toEqual([400, 'bad-request']);
  },
);

test('where a token is set, nobody comes in without it, and the page with it in its address lets its browser in', async () => {
  const closed = new TestServer();
  const token = 'a-token-of-some-length';
  try {
    await closed.start({ THAWLINE_TOKEN: token });
    expect(closed.url).toContain(`?token=${token}`);
    const at = (path: string, headers: Record<string, string> = {}) => send(path, { headers }, closed.url);
    for (const reply of [
      await at('/'),
      await at('/api/projects'),
      await at('/?token=wrong-token-of-length'),
      await at(`/api/projects?token=${token}`),
    ])
      expect([reply.status, JSON.parse(reply.text).code]).toEqual([401, 'token-needed']);
    const page = await at(`/?token=${token}`);
    expect([page.status, page.headers.location]).toEqual([303, '/']);
    const [cookie = ''] = page.headers['set-cookie'] ?? [];
    expect(cookie).toMatch(/HttpOnly.*SameSite=Strict/);
    expect((await at('/api/projects', { cookie: cookie.split(';')[0] ?? '' })).status).toBe(200);
    expect((await at('/api/projects', { authorization: `Bearer ${token}` })).status).toBe(200);
    expect((await at('/api/projects', { authorization: 'Bearer wrong' })).status).toBe(401);
  } finally {
    await closed.remove();
  }
});

test('every code has a sentence that says something, whatever is known', () => {
  for (const code of ERROR_CODES) {
    const sentence = ERROR_SENTENCES[code]({
      source: 'floes',
      timelines: ['Main'],
      name: 'floes',
      file: 'floes.mp4',
      fault: 'bad-handles',
    });
    expect(sentence).toMatch(/^["A-Z0-9a-z].{9,}[.0-9]$/);
    if (code.includes('-')) expect(sentence).not.toContain(code);
  }
});

test('a request that is none gets a sentence', async () => {
  const { id } = await server.ask<ProjectState>('/projects', { name: 'Sentences' });
  const command = { type: 'renameTimeline', timelineId: 'none', name: 'x' };
  const reply = await send(`/api/projects/${id}/commands`, { method: 'POST', headers: json, body: JSON.stringify({ command }) });
  expect(JSON.parse(reply.text)).toMatchObject({ code: 'unknown-timeline', message: 'There is no such timeline.' });
});
