import { Inject, Injectable } from '@nestjs/common';
import { type Preset, presetSchema, type RenderForm } from '@thawline/project';
import { z } from 'zod';
import { Store } from '../database/store.js';
import { Failure } from '../http/failure.js';
import { newId } from '../projects/projects.service.js';

const PRESETS = { name: 'presets', schema: z.array(presetSchema) };
const MOST = 200;

/** Forms that people keep under names of their own, for all projects. */
@Injectable()
export class PresetsService {
  constructor(@Inject(Store) private readonly store: Store) {}

  async list(): Promise<Preset[]> {
    return (await this.store.setting(PRESETS)) ?? [];
  }

  save(name: string, form: RenderForm): Promise<Preset[]> {
    return this.store.changeSetting(PRESETS, (was) => {
      const others = (was ?? []).filter((p) => p.name !== name);
      if (others.length >= MOST) throw new Failure('bad-request', {}, `${MOST} forms are kept at most. Remove one first.`);
      const id = was?.find((p) => p.name === name)?.id ?? newId();
      return [...others, { id, name, form }].sort((a, b) => a.name.localeCompare(b.name));
    });
  }

  remove(id: string): Promise<Preset[]> {
    return this.store.changeSetting(PRESETS, (was) => {
      const others = (was ?? []).filter((p) => p.id !== id);
      if (others.length === (was ?? []).length) throw new Failure('unknown-preset', { id }, 'There is no such form.');
      return others;
    });
  }
}
