import { Controller, Get } from '@nestjs/common';
import { openapi } from '@thawline/contract';

@Controller()
export class AboutController {
  @Get('health')
  health() {
    return { ok: true };
  }

  @Get('openapi.json')
  describe() {
    return openapi('0.1.0');
  }
}
