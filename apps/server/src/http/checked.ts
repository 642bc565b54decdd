import { Injectable, type PipeTransform } from '@nestjs/common';
import { idSchema } from '@thawline/project';
import type { z } from 'zod';
import { Failure } from './failure.js';

/** A body or parameter as its schema says, or a 400 that names the place. */
@Injectable()
export class Checked<T> implements PipeTransform<unknown, T> {
  constructor(private readonly schema: z.ZodType<T>) {}

  transform(value: unknown): T {
    const parsed = this.schema.safeParse(value);
    if (parsed.success) return parsed.data;
    const issue = parsed.error.issues[0];
    const place = issue?.path.join('.') || 'body';
    throw new Failure('bad-request', { place }, `${place}: ${issue?.message ?? 'not as expected'}`);
  }
}

export const checkedId = new Checked(idSchema);
