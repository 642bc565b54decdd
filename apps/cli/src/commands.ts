import { Command, CommanderError } from 'commander';
import { OPTIONS, type OptionName, USAGE, type Values, WrongCall } from './usage.js';

type Run = (files: string[], values: Values) => Promise<void>;

interface ShellCommand {
  /** What it takes; anything else is a wrong call. */
  readonly options: readonly OptionName[];
  /** Each command loads only the modules it needs, so that a wrong call is refused at once and `probe` does not wait for the engine. */
  readonly load: () => Promise<Run>;
}

const COMMANDS: Readonly<Record<string, ShellCommand>> = {
  probe: {
    options: ['json', 'csv', 'rate'],
    load: async () => (await import('./probe.js')).probeCommand,
  },
  check: {
    options: ['json', 'pictures', 'region'],
    load: async () => (await import('./check.js')).checkCommand,
  },
  heldout: {
    options: ['json'],
    load: async () => (await import('./check.js')).heldOutCommand,
  },
  pan: {
    options: ['json', 'rate'],
    load: async () => (await import('./check.js')).panCommand,
  },
  compare: {
    options: ['json'],
    load: async () => (await import('./compare.js')).compareCommand,
  },
  align: {
    options: ['json'],
    load: async () => (await import('./compare.js')).alignCommand,
  },
  make: {
    options: [
      'rate',
      'from',
      'speed',
      'method',
      'shutter',
      'mix',
      'curve',
      'threads',
      'fields',
      'order',
      'interlaced',
      'lowpass',
      'pulldown',
      'over',
      'projection',
      'json',
    ],
    load: async () => (await import('./make.js')).makeCommand,
  },
  edit: {
    options: ['json', 'from'],
    load: async () => (await import('./edits.js')).editCommand,
  },
  carry: {
    options: ['rate', 'json', 'from'],
    load: async () => (await import('./edits.js')).carryCommand,
  },
  render: {
    options: ['timeline', 'form', 'rate', 'method', 'receipt', 'json', 'from'],
    load: async () => (await import('./render.js')).renderCommand,
  },
  receipt: {
    options: ['against', 'timeline', 'form', 'rate', 'method', 'json', 'from'],
    load: async () => (await import('./render.js')).receiptCommand,
  },
  projects: {
    options: ['json', 'server'],
    load: async () => (await import('./projects.js')).projectsCommand,
  },
  export: {
    options: ['media', 'json', 'server'],
    load: async () => (await import('./projects.js')).exportCommand,
  },
  import: {
    options: ['json', 'server'],
    load: async () => (await import('./projects.js')).importCommand,
  },
  restore: {
    options: ['data', 'project', 'json'],
    load: async () => (await import('./restore.js')).restoreCommand,
  },
};

/** Reads the call and does it. Throws WrongCall where there is no such command, or it takes no such option. */
export async function run(argv: readonly string[]): Promise<void> {
  const program = new Command('thawline').exitOverride().configureOutput({ writeErr: () => undefined });
  program.helpInformation = () => USAGE;
  program.helpCommand(false).action(() => {
    const [name] = program.args;
    throw new WrongCall(name === undefined ? 'Say what to do.' : `There is no command "${name}".`);
  });
  program.argument('[command]').allowExcessArguments();
  for (const [name, { options, load }] of Object.entries(COMMANDS)) {
    const command = program.command(name).exitOverride().argument('[files...]');
    command.helpInformation = () => USAGE;
    for (const option of options) command.option(OPTIONS[option]);
    command.action(async (files: string[], values: Values) => (await load())(files, values));
  }
  try {
    await program.parseAsync([...argv], { from: 'user' });
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error;
    if (error.exitCode !== 0) throw new WrongCall(error.message.replace(/^error: /, ''));
  }
}
