import { ERROR_CODES, ERROR_SENTENCES } from '@thawline/contract';
import { FakeServer, TurnedDown } from '../test/server.fixture.js';
import { call, RequestError } from './client.js';

const server = new FakeServer();

test.each(ERROR_CODES)('%s reaches the person in a sentence', async (code) => {
  server.on('listProjects', () => {
    throw new TurnedDown(code);
  });
  const error: unknown = await call('listProjects').catch((e: unknown) => e);
  expect(error).toBeInstanceOf(RequestError);
  expect(error).toMatchObject({ code, message: ERROR_SENTENCES[code]({}) });
  expect((error as RequestError).message).toMatch(/^\S.*\w.*[.)0-9]$/s);
});

test('a server that does not answer is told as that', async () => {
  server.away = true;
  await expect(call('listProjects')).rejects.toMatchObject({ code: 'unreachable', message: /The server does not answer/ });
  server.away = false;
});
