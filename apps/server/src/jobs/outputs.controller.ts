import { statfs } from 'node:fs/promises';
import { Body, Controller, Inject, Param } from '@nestjs/common';
import { type OutputsReply, routes } from '@thawline/contract';
import { specWords } from '@thawline/desk';
import { httpDesk } from '@thawline/desk/http';
import type { z } from 'zod';
import { Checked, checkedId } from '../http/checked.js';
import { Route } from '../http/route.js';
import { SETTINGS, type Settings } from '../settings.js';
import { CacheService } from './cache.service.js';
import { PresetsService } from './presets.service.js';

type Body_<N extends 'savePreset' | 'limitCache'> = z.infer<(typeof routes)[N]['body']>;

/** For asking whether a desk is there: milliseconds until it counts as not answering, and no retries. */
const QUICK = { answer: 2000, stall: 2000, retries: [] };

/** What renders share: where they go, what is kept of them, forms that people keep. */
@Controller()
export class OutputsController {
  constructor(
    @Inject(CacheService) private readonly cache: CacheService,
    @Inject(PresetsService) private readonly presets: PresetsService,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  @Route('outputs')
  async outputs(): Promise<OutputsReply> {
    const folders = await Promise.all(
      this.settings.renderFolders.map(async ({ name, path }) => {
        const disk = await statfs(path).catch(() => null);
        return { name, path, free: disk && disk.bsize * disk.bavail };
      }),
    );
    return { folders, desk: await this.desk() };
  }

  private async desk(): Promise<OutputsReply['desk']> {
    const { desk: address } = this.settings;
    if (!address) return null;
    const spec = await httpDesk(address, QUICK)
      .specification()
      .catch(() => null);
    return { address, spec, words: spec ? specWords(spec) : 'It does not answer.' };
  }

  @Route('presets')
  list() {
    return this.presets.list();
  }

  @Route('savePreset')
  save(@Body(new Checked(routes.savePreset.body)) { name, form }: Body_<'savePreset'>) {
    return this.presets.save(name, form);
  }

  @Route('removePreset')
  remove(@Param('preset', checkedId) preset: string) {
    return this.presets.remove(preset);
  }

  @Route('cache')
  state() {
    return this.cache.state();
  }

  @Route('limitCache')
  limit(@Body(new Checked(routes.limitCache.body)) { most }: Body_<'limitCache'>) {
    return this.cache.limit(most);
  }

  @Route('emptyCache')
  empty() {
    return this.cache.empty();
  }
}
