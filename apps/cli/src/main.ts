import { run } from './commands.js';
import { USAGE, WrongCall } from './usage.js';

// Whoever reads our lines may stop: `thawline probe … | head`.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

try {
  await run(process.argv.slice(2));
} catch (error) {
  const message = error instanceof Error ? error.message : String(error);
  process.stderr.write(error instanceof WrongCall ? `${message}\n\n${USAGE}` : `${message}\n`);
  process.exitCode = error instanceof WrongCall ? 2 : 1;
}
