import { Controller } from '@nestjs/common';
import { openapi } from '@thawline/contract';
import { Route } from './route.js';

@Controller()
export class AboutController {
  @Route('health')
  health() {
    return { ok: true };
  }

  @Route('openapi')
  describe() {
    return openapi('0.1.0');
  }
}
