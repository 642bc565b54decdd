import { run } from './commands.js';
import { WrongCall } from './usage.js';

const refusal = (...argv: string[]): Promise<unknown> => run(argv).catch((error: unknown) => error);

test.each([
  [[]],
  [['dance']],
  [['probe']],
  [['probe', 'a', '--json', '--csv']],
  [['probe', 'a', '--rate', '0']],
  [['make', 'a.mp4', 'b.mp4']],
  [['make', 'a.mp4', 'b.mp4', '--rate', '0']],
  [['make', 'a.mp4', 'b.avi', '--rate', '25']],
  [['probe', 'a.mp4', '--loud']],
  [['compare', 'a.mp4']],
  [['check', 'a.mp4', '--pictures', '20-10']],
  [['check', 'a.mp4', '--region', '1,2,3']],
  // Of another command: taken and not done would be worse than refused.
  [['check', 'a.mp4', '--speed', '3']],
])('%j is a wrong call', async (argv) => {
  expect(await refusal(...argv)).toBeInstanceOf(WrongCall);
});

test.each([
  [['--fields', 'every-other'], 'is no way to read fields'],
  [['--fields', 'one-a-field', '--order', 'left'], 'is no order of fields'],
  [['--rate', '25', '--order', 'top'], '--order goes with --fields'],
  [['--rate', '25', '--interlaced', 'left'], 'is no order of fields'],
  [['--rate', '25', '--lowpass', 'light'], '--lowpass goes with --interlaced'],
  [['--rate', '25', '--interlaced', 'top', '--lowpass', 'hard'], 'is no low-pass'],
  [['--rate', '24', '--pulldown', '3:3'], 'is no pulldown'],
  [['--rate', '25', '--speed', '0'], '"0" is not a speed from 1 % to 10000 %'],
  [['--rate', '25', '--shutter', '361'], 'not a shutter from 0 to 360'],
  [['--rate', '25', '--threads', '0'], 'not a number of threads from 1 to 64'],
  [['--rate', '25', '--method', 'magic'], 'Try nearest, blend or motion'],
  [['--rate', '25', '--mix', 'well'], 'Try stored or light'],
])('make with %j is a wrong call, and says why', async (options, said) => {
  const error = await refusal('make', 'a.mkv', 'wrong.mkv', ...options);
  expect(error).toBeInstanceOf(WrongCall);
  expect((error as Error).message).toContain(said);
});
