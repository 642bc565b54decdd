import { Controller, Inject, type MessageEvent, Param, Sse } from '@nestjs/common';
import { interval, map, merge, type Observable } from 'rxjs';
import { checkedId } from '../http/checked.js';
import { EventsService } from './events.service.js';

/** A line now and then keeps proxies and the browser from closing a quiet stream. */
const ALIVE_EVERY_MS = 20_000;

@Controller('projects/:project/events')
export class EventsController {
  constructor(@Inject(EventsService) private readonly events: EventsService) {}

  @Sse()
  listen(@Param('project', checkedId) project: string): Observable<MessageEvent> {
    const alive = interval(ALIVE_EVERY_MS).pipe(map((): MessageEvent => ({ type: 'alive', data: '' })));
    return merge(this.events.of(project).pipe(map((event): MessageEvent => ({ data: event }))), alive);
  }
}
