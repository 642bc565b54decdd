import { ffmpeg, type Media } from '@thawline/media';
import { makersOf } from './codeVersion.js';

test('what makes pictures has one name, and another encoder another', async () => {
  const own = await makersOf(ffmpeg);
  expect(own).toMatch(/^[0-9a-f]{16}$/);
  expect(await makersOf(ffmpeg)).toBe(own);
  const other: Media = { ...ffmpeg, version: async () => 'ffmpeg version 99' };
  expect(await makersOf(other)).not.toBe(own);
});
