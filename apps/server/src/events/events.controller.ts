import { Controller, Inject, type MessageEvent, Param, Query, Sse } from '@nestjs/common';
import { askerSchema, type ServerEvent } from '@thawline/contract';
import { concatMap, interval, map, merge, type Observable } from 'rxjs';
import { Checked, checkedId } from '../http/checked.js';
import { ProjectsService } from '../projects/projects.service.js';
import { EventsService } from './events.service.js';

/** A line now and then keeps proxies and the browser from closing a quiet stream. */
const ALIVE_EVERY_MS = 20_000;

const listener = new Checked(askerSchema.pick({ client: true }));

@Controller('projects/:project/events')
export class EventsController {
  constructor(
    @Inject(EventsService) private readonly events: EventsService,
    @Inject(ProjectsService) private readonly projects: ProjectsService,
  ) {}

  @Sse()
  async listen(
    @Param('project', checkedId) project: string,
    @Query(listener) { client }: { client?: string | undefined },
  ): Promise<Observable<MessageEvent>> {
    await this.projects.document(project);
    const alive = interval(ALIVE_EVERY_MS).pipe(map((): MessageEvent => ({ type: 'alive', data: '' })));
    const events = this.events.of(project, client).pipe(
      concatMap((event) => this.asHeard(project, event, client)),
      map((event): MessageEvent => ({ data: event })),
    );
    return merge(events, alive);
  }

  /** What undo and redo would do differs from window to window. */
  private async asHeard(project: string, event: ServerEvent, client: string | undefined): Promise<ServerEvent> {
    if (event.type !== 'change') return event;
    return { ...event, change: { ...event.change, ...(await this.projects.labels(project, client)) } };
  }
}
