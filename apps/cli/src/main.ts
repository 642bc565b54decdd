import { parse, USAGE, type Values, WrongCall } from './usage.js';

type Run = (files: string[], values: Values) => Promise<void>;

/** Each command loads what it needs and no more: a wrong call is told at once, and `probe` waits for no engine. */
const COMMANDS: Record<string, () => Promise<Run>> = {
  probe: async () => (await import('./probe.js')).probeCommand,
  check: async () => (await import('./check.js')).checkCommand,
  heldout: async () => (await import('./check.js')).heldOutCommand,
  pan: async () => (await import('./check.js')).panCommand,
  compare: async () => (await import('./compare.js')).compareCommand,
  align: async () => (await import('./compare.js')).alignCommand,
  make: async () => (await import('./make.js')).makeCommand,
  edit: async () => (await import('./edits.js')).editCommand,
  carry: async () => (await import('./edits.js')).carryCommand,
  render: async () => (await import('./render.js')).renderCommand,
  receipt: async () => (await import('./render.js')).receiptCommand,
  projects: async () => (await import('./projects.js')).projectsCommand,
  export: async () => (await import('./projects.js')).exportCommand,
  import: async () => (await import('./projects.js')).importCommand,
  restore: async () => (await import('./restore.js')).restoreCommand,
};

async function run(argv: string[]): Promise<void> {
  let parsed: ReturnType<typeof parse>;
  try {
    parsed = parse(argv);
  } catch (error) {
    throw new WrongCall(error instanceof Error ? error.message : String(error));
  }
  const { values, positionals } = parsed;
  const [name, ...files] = positionals;
  if (values.help) {
    process.stdout.write(USAGE);
    return;
  }
  if (name === undefined) throw new WrongCall('Say what to do.');
  if (!Object.hasOwn(COMMANDS, name)) throw new WrongCall(`There is no command "${name}".`);
  const command = await (COMMANDS[name] as () => Promise<Run>)();
  await command(files, values);
}

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
