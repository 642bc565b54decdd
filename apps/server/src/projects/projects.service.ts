import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { ChangeReply, ProjectState } from '@thawline/contract';
import { apply, applyDifference, type Command, describe, emptyProject, type Project, type TimingOf } from '@thawline/project';
import { type Revisions, Store, type StoredProject } from '../database/store.js';
import { EventsService } from '../events/events.service.js';
import { Failure } from '../http/failure.js';

type Patches = ChangeReply['patches'];

@Injectable()
export class ProjectsService {
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
  command(id: string, command: Command): Promise<ChangeReply> {
    return this.change(id, async ({ document }, revisions) => {
      const applied = apply(document, command, await this.timings(document));
      if (!applied.ok) throw new Failure(applied.code, applied.facts);
      const { forward, backward } = applied.difference;
      const last = await revisions.newest(false);
      await revisions.add({
        number: (last?.number ?? 0) + 1,
        label: describe(command, document),
        command: JSON.stringify(command),
        forward: JSON.stringify(forward),
        backward: JSON.stringify(backward),
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

  async history(id: string) {
    await this.stored(id);
    const revisions = await this.store.revisions(id, 500);
    return revisions.map(({ number, label, at, undone }) => ({ number, label, at, undone }));
  }

  /** Timing of the project's variable sources, read once and then at hand. */
  async timings(document: Project): Promise<TimingOf> {
    const variable = document.sources.filter((s) => s.variable);
    const found = await Promise.all(
      variable.map(async (s) => [s.mediaId, (await this.store.media(s.mediaId))?.probe.timing] as const),
    );
    const table = new Map(found);
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

export function newId(): string {
  return randomUUID().replace(/-/g, '').slice(0, 16);
}

export function now(): string {
  return new Date().toISOString();
}
