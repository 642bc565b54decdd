import { Inject, Injectable } from '@nestjs/common';
import type { CacheReply } from '@thawline/contract';
import { cacheState, trimCache } from '@thawline/work';
import { z } from 'zod';
import { Store } from '../database/store.js';
import { places, SETTINGS, type Settings } from '../settings.js';

/** Default limit of the render cache: 20 GB. */
const MOST_BYTES = 20e9;
const MOST = { name: 'cache-most', schema: z.number().min(0) };

/** Parts of renders that are kept, so that what is unchanged is not written again. Any of them may go at any time. */
@Injectable()
export class CacheService {
  constructor(
    @Inject(Store) private readonly store: Store,
    @Inject(SETTINGS) private readonly settings: Settings,
  ) {}

  async state(): Promise<CacheReply> {
    return { ...(await cacheState(places.cache(this.settings))), most: await this.most() };
  }

  async limit(most: number): Promise<CacheReply> {
    await this.store.changeSetting(MOST, () => most);
    return this.trim();
  }

  /** Oldest first, until the rest fits. */
  async trim(): Promise<CacheReply> {
    const most = await this.most();
    return { ...(await trimCache(places.cache(this.settings), most)), most };
  }

  async empty(): Promise<CacheReply> {
    return { ...(await trimCache(places.cache(this.settings), 0)), most: await this.most() };
  }

  private async most(): Promise<number> {
    return (await this.store.setting(MOST)) ?? MOST_BYTES;
  }
}
