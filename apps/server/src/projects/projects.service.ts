import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { ChangeReply, ProjectState } from '@thawline/contract';
import type { Timing } from '@thawline/core/time';
import { apply, applyDifference, type Command, describe, emptyProject, type Project, type TimingOf } from '@thawline/project';
import { type Revisions, Store, type StoredProject, type StoredRevision, type WrittenRevision } from '../database/store.js';
import { EventsService } from '../events/events.service.js';
import { Failure } from '../http/failure.js';

type Patches = ChangeReply['patches'];

@Injectable()
export class ProjectsService {
  private readonly known = new Map<string, Timing>();

  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(EventsService) private readonly events: EventsService,
  ) {}

  async list() {
    const projects = await this.store.projects();
    return projects.map(({ id, document, changedAt }) => ({
      id,
      name: document.name,
      sources: document.sources.length,
      timelines: document.timelines.length,
      changedAt,
    }));
  }

  async create(name: string): Promise<ProjectState> {
    const id = newId();
    await this.store.createProject(id, emptyProject(name), now());
    return this.read(id);
  }

  async read(id: string): Promise<ProjectState> {
    const { version, document } = await this.stored(id);
    return { id, version, document, ...(await this.labels(id)) };
  }

  async document(id: string): Promise<Project> {
    return (await this.stored(id)).document;
  }

  /** Applies a command and stores the change and its revision together. */
  command(id: string, command: Command, batch: string | null = null): Promise<ChangeReply> {
    return this.change(id, async ({ document }, revisions) => {
      const applied = apply(document, command, await this.timings(document));
      if (!applied.ok) throw new Failure(applied.code, applied.facts);
      const { forward, backward } = applied.difference;
      const last = await revisions.newest(false);
      if (last && batch !== null && last.batch === batch)
        await revisions.replace(joined(last, command, forward, backward, document));
      else
        await revisions.add({
          number: (last?.number ?? 0) + 1,
          label: describe(command, document),
          command: JSON.stringify(command),
          forward: JSON.stringify(forward),
          backward: JSON.stringify(backward),
          batch,
        });
      return { document: applied.project, patches: forward as Patches };
    });
  }

  undo(id: string): Promise<ChangeReply> {
    return this.travel(id, false);
  }

  redo(id: string): Promise<ChangeReply> {
    return this.travel(id, true);
  }

  /** Goes to the state after a step of the history (0: the beginning), whichever way that lies. */
  jump(id: string, number: number): Promise<ChangeReply> {
    return this.change(id, async ({ document }, revisions) => {
      const all = await revisions.all();
      if (number !== 0 && !all.some((r) => r.number === number)) throw new Failure('unknown-revision');
      const back = all.filter((r) => r.number > number && !r.undone).reverse();
      const again = all.filter((r) => r.number <= number && r.undone);
      const patches = [...back.flatMap((r) => JSON.parse(r.backward)), ...again.flatMap((r) => JSON.parse(r.forward))] as Patches;
      for (const { number: each } of back) await revisions.mark(each, true);
      for (const { number: each } of again) await revisions.mark(each, false);
      return { document: applyDifference(document, patches as Parameters<typeof applyDifference>[1]), patches };
    });
  }

  async history(id: string) {
    await this.stored(id);
    const revisions = await this.store.revisions(id, 500);
    return revisions.map(({ number, label, at, undone }) => ({ number, label, at, undone }));
  }

  /** Timing of the project's variable sources that stand on timelines or may be placed; files never change, so each is read once. */
  async timings(document: Project): Promise<TimingOf> {
    const unread = document.sources.filter((s) => s.variable && !this.known.has(s.mediaId)).map((s) => s.mediaId);
    for (const media of unread.length > 0 ? await this.store.mediaOf(unread) : []) this.known.set(media.id, media.probe.timing);
    const table = new Map(document.sources.filter((s) => s.variable).map((s) => [s.mediaId, this.known.get(s.mediaId)]));
    return (mediaId) => table.get(mediaId);
  }

  private travel(id: string, again: boolean): Promise<ChangeReply> {
    return this.change(id, async ({ document }, revisions) => {
      const revision = await revisions.newest(again);
      if (!revision) throw new Failure(again ? 'nothing-to-redo' : 'nothing-to-undo');
      const patches = JSON.parse(again ? revision.forward : revision.backward) as Patches;
      await revisions.mark(revision.number, !again);
      return { document: applyDifference(document, patches as Parameters<typeof applyDifference>[1]), patches };
    });
  }

  private async change(
    id: string,
    decide: (project: StoredProject, revisions: Revisions) => Promise<{ document: Project; patches: Patches }>,
  ): Promise<ChangeReply> {
    await this.stored(id);
    let patches: Patches = [];
    let version = 0;
    await this.store.changeProject(id, now(), async (project, revisions) => {
      const decided = await decide(project, revisions);
      patches = decided.patches;
      version = project.version + 1;
      return decided;
    });
    const change: ChangeReply = { projectId: id, version, patches, ...(await this.labels(id)) };
    this.events.tell(id, { type: 'change', change });
    return change;
  }

  private async stored(id: string): Promise<StoredProject> {
    const project = await this.store.project(id);
    if (!project) throw new Failure('unknown-project', { id }, 'There is no such project.');
    return project;
  }

  private async labels(id: string): Promise<{ undoLabel: string | null; redoLabel: string | null }> {
    const [done, undone] = await Promise.all([this.store.newestRevision(id, false), this.store.newestRevision(id, true)]);
    return { undoLabel: done?.label ?? null, redoLabel: undone?.label ?? null };
  }
}

/** Two changes of one batch as one step. */
function joined(
  last: StoredRevision,
  command: Command,
  forward: unknown[],
  backward: unknown[],
  before: Project,
): WrittenRevision {
  const first = JSON.parse(last.command) as Command;
  const whole: Command =
    first.type === 'addSources' && command.type === 'addSources'
      ? { type: 'addSources', sources: [...first.sources, ...command.sources] }
      : command;
  return {
    number: last.number,
    label: describe(whole, before),
    command: JSON.stringify(whole),
    forward: JSON.stringify([...(JSON.parse(last.forward) as unknown[]), ...forward]),
    backward: JSON.stringify([...backward, ...(JSON.parse(last.backward) as unknown[])]),
    batch: last.batch,
  };
}

export function newId(): string {
  return randomUUID().replace(/-/g, '').slice(0, 16);
}

export function now(): string {
  return new Date().toISOString();
}
