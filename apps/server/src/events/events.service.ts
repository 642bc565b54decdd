import { Injectable } from '@nestjs/common';
import type { ServerEvent } from '@thawline/contract';
import { filter, map, type Observable, Subject } from 'rxjs';

/** What happens in projects, for whoever listens. */
@Injectable()
export class EventsService {
  private readonly all = new Subject<{ projectId: string; event: ServerEvent }>();

  tell(projectId: string, event: ServerEvent): void {
    this.all.next({ projectId, event });
  }

  of(projectId: string): Observable<ServerEvent> {
    return this.all.pipe(
      filter((told) => told.projectId === projectId),
      map((told) => told.event),
    );
  }
}
