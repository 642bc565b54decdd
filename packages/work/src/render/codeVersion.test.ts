import { ffmpeg, type Media } from '@thawline/media';
import { makersOf } from './codeVersion.js';

test('what makes pictures has one name, and another encoder another', async () => {
  const own = await makersOf({ media: ffmpeg });
  expect(own).toMatch(/^[0-9a-f]{16}$/);
  expect(await makersOf({ media: ffmpeg })).toBe(own);
  const other: Media = { ...ffmpeg, version: async () => 'ffmpeg version 99' };
  expect(await makersOf({ media: other })).not.toBe(own);
});
