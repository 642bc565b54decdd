import { Injectable } from '@nestjs/common';
import type { ServerEvent } from '@thawline/contract';
import { filter, finalize, map, type Observable, Subject } from 'rxjs';

/** Publishes what happens in projects to all subscribers. */
@Injectable()
export class EventsService {
  private readonly all = new Subject<{ projectId: string; event: ServerEvent }>();
  /** Windows that listen, by project; a window may have several lines open for a moment. */
  private readonly listening = new Map<string, string[]>();

  tell(projectId: string, event: ServerEvent): void {
    this.all.next({ projectId, event });
  }

  /** Every change of any project. */
  changes(): Observable<ServerEvent> {
    return this.all.pipe(
      map((told) => told.event),
      filter((event) => event.type === 'change'),
    );
  }

  /** @param client the window that listens, where it says so */
  of(projectId: string, client?: string): Observable<ServerEvent> {
    const clients = this.listening.get(projectId) ?? [];
    if (client !== undefined) this.listening.set(projectId, [...clients, client]);
    return this.all.pipe(
      filter((told) => told.projectId === projectId),
      map((told) => told.event),
      finalize(() => this.leave(projectId, client)),
    );
  }

  /** The other open windows of a project. Changes made by windows that have closed may be undone from any window. */
  othersListening(projectId: string, client?: string): string[] {
    // A caller that names no window undoes the newest step of any window.
    if (client === undefined) return [];
    return [...new Set(this.listening.get(projectId) ?? [])].filter((other) => other !== client);
  }

  private leave(projectId: string, client?: string): void {
    const clients = this.listening.get(projectId) ?? [];
    const at = client === undefined ? -1 : clients.indexOf(client);
    if (at < 0) return;
    const left = clients.filter((_, i) => i !== at);
    if (left.length > 0) this.listening.set(projectId, left);
    else this.listening.delete(projectId);
  }
}
