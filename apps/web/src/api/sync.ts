import type { QueryClient } from '@tanstack/react-query';
import { type ChangeReply, eventSchema, type FileState, type JobReply, jobOf, type ProjectState } from '@thawline/contract';
import { applyDifference } from '@thawline/project';

/**
 * Keeps what the browser knows of a project in step with the server: changes and jobs as they are announced. Nothing here knows React; the
 * query cache is where views read from.
 */
export class ProjectSync {
  private lost = false;

  /**
   * @param readProject reads the project as the server has it now
   * @param onOpen told whenever the line stands: what waits for the server can be sent
   */
  constructor(
    private readonly id: string,
    private readonly cache: QueryClient,
    private readonly readProject: () => Promise<ProjectState>,
    private readonly onOpen: () => void,
  ) {}

  /** A change as the server stored it: announced, or the reply to a request of one's own. Each may arrive twice, or out of order. */
  take(change: ChangeReply): void {
    const key = ['project', this.id];
    const next = afterChange(this.cache.getQueryData<ProjectState>(key), change);
    if (next === 'gap') this.stale('project');
    else if (next) this.cache.setQueryData(key, next);
    this.stale('history');
  }

  /** A message of the server's event stream. What is not an event of this version is passed over. */
  hear(data: string): void {
    const event = eventSchema.safeParse(parsed(data));
    if (!event.success) return;
    if (event.data.type === 'change') this.take(event.data.change);
    else this.takeJob(event.data.job);
  }

  /** The line is down: what is announced until it stands again is missed. */
  lose(): void {
    this.lost = true;
  }

  /** The event stream is open. Events that fell before that, while it was down or after the document was read, have been missed. */
  async open(): Promise<void> {
    this.onOpen();
    const wasLost = this.lost;
    this.lost = false;
    if (wasLost) {
      void this.cache.invalidateQueries();
      return;
    }
    const now = await this.readProject().catch(() => null);
    // A server that does not answer now loses the line, too, and is read when that opens again.
    if (!now) return;
    const known = this.cache.getQueryData<ProjectState>(['project', this.id]);
    if (!known || now.version > known.version) this.cache.setQueryData(['project', this.id], now);
    this.stale('jobs');
  }

  private takeJob(job: JobReply): void {
    this.cache.setQueryData<JobReply[]>(['jobs', this.id], (jobs = []) =>
      jobs.some((j) => j.id === job.id) ? jobs.map((j) => (j.id === job.id ? job : j)) : [job, ...jobs],
    );
    if (job.state === 'done') for (const key of staleKeys(job)) void this.cache.invalidateQueries({ queryKey: key });
    if (job.state === 'done' && job.kind === 'proxy') {
      this.cache.setQueryData<FileState[]>(['files', this.id], (files = []) =>
        files.map((f) => (f.mediaId === job.subject ? { ...f, proxy: true } : f)),
      );
    }
    // It may have failed because its file is gone.
    if (job.state === 'failed') this.stale('files');
  }

  private stale(query: string): void {
    void this.cache.invalidateQueries({ queryKey: [query, this.id] });
  }
}

/** The project after a change; undefined where nothing changes, 'gap' where changes between are missing. */
export function afterChange(state: ProjectState | undefined, change: ChangeReply): ProjectState | 'gap' | undefined {
  if (!state || change.version <= state.version) return undefined;
  if (change.version !== state.version + 1) return 'gap';
  const document = applyDifference(state.document, change.patches as Parameters<typeof applyDifference>[1]);
  return { ...state, document, version: change.version, undoLabel: change.undoLabel, redoLabel: change.redoLabel };
}

/** Keys of what a finished job made stale, as its kind says. A part's check has the file's media id with "-part" behind it as its subject. */
function staleKeys({ kind, projectId, subject }: JobReply): string[][] {
  return jobOf(kind).stale.map(({ query, of }) => [query, of === 'project' ? projectId : subject.replace(/-part$/, '')]);
}

function parsed(data: string): unknown {
  try {
    return JSON.parse(data);
  } catch {
    // Cut off on the way: the line opens again, and everything is read anew then.
    return null;
  }
}
