import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { Asker, ChangeReply, ProjectState, ProjectSummary } from '@thawline/contract';
import type { Timing } from '@thawline/core/time';
import {
  apply,
  applyDifference,
  type Command,
  commandSchema,
  type Difference,
  describe,
  emptyProject,
  moveStepFirst,
  moveStepLast,
  type Project,
  type TimingOf,
} from '@thawline/project';
import { patchesSchema } from '../database/columns.js';
import { type Revisions, Store, type StoredProject, type StoredRevision, type WrittenRevision } from '../database/store.js';
import { yieldTurn } from '../database/yielding.js';
import { EventsService } from '../events/events.service.js';
import { Failure } from '../http/failure.js';

type Patches = ChangeReply['patches'];

/** Who requested a change: the ids of the request and of the window, when given. */
export interface AskedBy extends Asker {
  /** Changes of one batch are one step. */
  readonly batch?: string | undefined;
}

@Injectable()
export class ProjectsService {
  private readonly known = new Map<string, Timing>();

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(EventsService) private readonly events: EventsService,
  ) {}

  async list(): Promise<ProjectSummary[]> {
    const projects = await this.store.projects();
    return projects.map(({ id, name, document, changedAt, deletedAt }) => ({
      id,
      name: document?.name ?? name,
      sources: document?.sources.length ?? 0,
      timelines: document?.timelines.length ?? 0,
      changedAt,
      deletedAt,
      damaged: document === null,
    }));
  }

  async create(name: string): Promise<ProjectState> {
    const id = newId();
    await this.store.createProject(id, emptyProject(name), now());
    return this.read(id);
  }

  /** A copy under another name: document, history, and what was found of its sources. Its files are shared, for they never change. */
  async copy(id: string, name: string): Promise<ProjectState> {
    await this.stored(id);
    const archive = await this.store.archive(id);
    if (!archive) throw new Failure('unknown-project', { id });
    const options = { id: newId(), name, at: now(), newId };
    await this.store.addArchives([{ archive, options }]);
    return this.read(options.id);
  }

  /** Puts a project into the bin. A damaged one can be put there, too. */
  async delete(id: string): Promise<ProjectSummary[]> {
    if (!(await this.store.binProject(id, now()))) throw new Failure('unknown-project', { id });
    return this.list();
  }

  async undelete(id: string): Promise<ProjectSummary[]> {
    if (!(await this.store.binProject(id, null))) throw new Failure('unknown-project', { id });
    return this.list();
  }

  async read(id: string, client?: string): Promise<ProjectState> {
    const { version, document } = await this.stored(id);
    return { id, version, document, ...(await this.labels(id, client)) };
  }

  async document(id: string): Promise<Project> {
    return (await this.stored(id)).document;
  }

  /** Applies a command and stores the change and its revision together. */
  command(id: string, command: Command, by: AskedBy = {}): Promise<ChangeReply> {
    return this.change(id, by, async ({ document }, revisions) => {
      const applied = apply(document, command, await this.timings(document));
      if (!applied.ok) throw new Failure(applied.code, applied.facts);
      const { forward, backward } = applied.difference;
      await yieldTurn();
      const last = await revisions.newest(false);
      if (last && by.batch !== undefined && last.batch === by.batch)
        await revisions.replace(joined(last, command, applied.difference, document));
      else
        await revisions.add({
          number: (last?.number ?? 0) + 1,
          label: describe(command, document),
          command: JSON.stringify(recorded(command)),
          forward: await asText(forward),
          backward: await asText(backward),
          batch: by.batch ?? null,
          client: by.client ?? null,
        });
      return { document: applied.project, patches: forward as Patches };
    });
  }

  /** Takes back the newest step that no other open window did. What others did since stays, or the step that is in the way is named. */
  undo(id: string, by: Asker = {}): Promise<ChangeReply> {
    return this.change(id, by, async ({ document }, revisions) => {
      const done = (await revisions.all()).filter((r) => !r.undone);
      const others = this.events.othersListening(id, by.client);
      const at = done.findLastIndex((r) => r.client === null || !others.includes(r.client));
      const steps = done.slice(at);
      const [step] = steps;
      if (at < 0 || !step) throw new Failure('nothing-to-undo');
      let { backward } = differenceOf(step);
      if (steps.length > 1) {
        const moved = moveStepLast(document, steps.map(differenceOf));
        if (!moved.ok) throw new Failure('step-touched', { step: step.label, later: steps[moved.by]?.label ?? '' });
        await putInOrder(revisions, steps, [...steps.slice(1), step], moved.steps);
        backward = moved.steps.at(-1)?.backward ?? [];
      }
      await revisions.mark(steps.at(-1)?.number ?? step.number, true);
      return { document: applyDifference(document, backward), patches: backward as Patches };
    });
  }

  /** Does again what was taken back last, of what no other open window took back. */
  redo(id: string, by: Asker = {}): Promise<ChangeReply> {
    return this.change(id, by, async ({ document }, revisions) => {
      const undone = (await revisions.all()).filter((r) => r.undone);
      const others = this.events.othersListening(id, by.client);
      const at = undone.findIndex((r) => r.client === null || !others.includes(r.client));
      const steps = undone.slice(0, at + 1);
      const step = steps.at(-1);
      if (at < 0 || !step) throw new Failure('nothing-to-redo');
      let { forward } = differenceOf(step);
      if (steps.length > 1) {
        const moved = moveStepFirst(document, steps.map(differenceOf));
        if (!moved.ok) throw new Failure('step-touched', { step: step.label, later: steps[moved.by]?.label ?? '' });
        await putInOrder(revisions, steps, [step, ...steps.slice(0, -1)], moved.steps);
        forward = moved.steps[0]?.forward ?? [];
      }
      await revisions.mark(steps[0]?.number ?? step.number, false);
      return { document: applyDifference(document, forward), patches: forward as Patches };
    });
  }

  /** Undoes or redoes until the given step of the history is the last one applied (0: the beginning). */
  jump(id: string, number: number, by: Asker = {}): Promise<ChangeReply> {
    return this.change(id, by, async ({ document }, revisions) => {
      const all = await revisions.all();
      if (number !== 0 && !all.some((r) => r.number === number)) throw new Failure('unknown-revision');
      const back = all.filter((r) => r.number > number && !r.undone).reverse();
      const again = all.filter((r) => r.number <= number && r.undone);
      const patches = [...back.flatMap((r) => differenceOf(r).backward), ...again.flatMap((r) => differenceOf(r).forward)];
      for (const { number: each } of back) await revisions.mark(each, true);
      for (const { number: each } of again) await revisions.mark(each, false);
      return { document: applyDifference(document, patches), patches: patches as Patches };
    });
  }

  async history(id: string) {
    await this.stored(id);
    const revisions = await this.store.revisions(id, 500);
    return revisions.map(({ number, label, at, undone }) => ({ number, label, at, undone }));
  }

  /** What undo and redo would do for a window. */
  async labels(id: string, client?: string): Promise<{ undoLabel: string | null; redoLabel: string | null }> {
    const others = this.events.othersListening(id, client);
    const [done, undone] = await Promise.all([
      this.store.newestLabel(id, false, others),
      this.store.newestLabel(id, true, others),
    ]);
    return { undoLabel: done, redoLabel: undone };
  }

  /** Timing of the project's variable sources that stand on timelines or may be placed; files never change, so each is read once. */
  async timings(document: Project): Promise<TimingOf> {
    const unread = document.sources.filter((s) => s.variable && !this.known.has(s.mediaId)).map((s) => s.mediaId);
    for (const media of unread.length > 0 ? await this.store.mediaOf(unread) : []) this.known.set(media.id, media.probe.timing);
    const table = new Map(document.sources.filter((s) => s.variable).map((s) => [s.mediaId, this.known.get(s.mediaId)]));
    return (mediaId) => table.get(mediaId);
  }

  private async change(
    id: string,
    by: Asker,
    decide: (project: StoredProject, revisions: Revisions) => Promise<{ document: Project; patches: Patches }>,
  ): Promise<ChangeReply> {
    await this.stored(id);
    const { version, patches, repeated } = await this.store.changeProject(
      id,
      { at: now(), requestId: by.requestId ?? null },
      decide,
    );
    const change: ChangeReply = { projectId: id, version, patches: patches as Patches, ...(await this.labels(id, by.client)) };
    // It was announced to all windows when it was made.
    if (!repeated) this.events.tell(id, { type: 'change', change });
    return change;
  }

  private async stored(id: string): Promise<StoredProject> {
    const project = await this.store.project(id);
    if (!project) throw new Failure('unknown-project', { id });
    return project;
  }
}

/** JSON of what may be large, with a turn for everybody else behind it. */
async function asText(value: unknown): Promise<string> {
  const text = JSON.stringify(value);
  await yieldTurn();
  return text;
}

/** A command as stored in the history. The contents of an opened edit file are left out: the difference has them. */
function recorded(command: Command): object {
  return command.type === 'openEdit' ? { type: command.type, file: command.file } : command;
}

function differenceOf(revision: Pick<StoredRevision, 'forward' | 'backward'>): Difference {
  return {
    forward: patchesSchema.parse(JSON.parse(revision.forward)),
    backward: patchesSchema.parse(JSON.parse(revision.backward)),
  };
}

/** Writes steps in another order into the same places of the history, each with its difference as it is there. */
async function putInOrder(
  revisions: Revisions,
  places: readonly StoredRevision[],
  steps: readonly StoredRevision[],
  differences: readonly Difference[],
): Promise<void> {
  for (const [i, { number }] of places.entries()) {
    const [step, difference] = [steps[i], differences[i]];
    if (!step || !difference) throw new Error('a step was lost on the way');
    const { label, command, batch, client, at } = step;
    const [forward, backward] = [JSON.stringify(difference.forward), JSON.stringify(difference.backward)];
    await revisions.replace({ number, label, command, forward, backward, batch, client }, at);
  }
}

/** Two changes of one batch as one step. */
function joined(last: StoredRevision, command: Command, { forward, backward }: Difference, before: Project): WrittenRevision {
  const first = commandSchema.safeParse(JSON.parse(last.command)).data;
  const whole: Command =
    first?.type === 'addSources' && command.type === 'addSources'
      ? { type: 'addSources', sources: [...first.sources, ...command.sources] }
      : command;
  const was = differenceOf(last);
  return {
    number: last.number,
    label: describe(whole, before),
    command: JSON.stringify(whole),
    forward: JSON.stringify([...was.forward, ...forward]),
    backward: JSON.stringify([...backward, ...was.backward]),
    batch: last.batch,
    client: last.client,
  };
}

export function newId(): string {
  return randomUUID().replace(/-/g, '').slice(0, 16);
}

export function now(): string {
  return new Date().toISOString();
}
