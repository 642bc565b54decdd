import { availableParallelism } from 'node:os';
import { SHUTTER_MAX } from '@thawline/core/cadence';
import { LOW_PASSES, type LowPass } from '@thawline/core/fields';
import { MIXES, type Mix, PAINTS, type Paint, paintOf } from '@thawline/core/picture';
import { parseRate, parseSpeed, type Rate, SPEED_MAX, SPEED_MIN } from '@thawline/core/time';
import { FIELD_CHOICES, type FieldChoice, ORDER_CHOICES, type OrderChoice } from '@thawline/project';
import type { CheckOptions, MakeMethod } from '@thawline/work';
import { WrongCall } from './usage.js';

/** Parses options into values; throws WrongCall (which prints the usage) for a value that is invalid. */

export function only(files: string[], count: number): string {
  if (files.length !== count) throw new WrongCall(`One file is wanted; ${files.length} were given.`);
  return files[0] as string;
}

export function rateOf(text: string): Rate {
  const rate = parseRate(text);
  if (!rate) throw new WrongCall(`"${text}" is not a rate. Try 25, 23.976 or 24000/1001.`);
  return rate;
}

export function optional(text: string | undefined): Rate | null {
  return text === undefined ? null : rateOf(text);
}

/** Whole numbers with a mark between them; throws WrongCall unless there are so many. */
function numbers(text: string, mark: string, count: number, example: string): number[] {
  const found = text.split(mark).map((part) => (/^\d{1,9}$/.test(part.trim()) ? Number(part) : Number.NaN));
  if (found.length !== count || found.some(Number.isNaN)) throw new WrongCall(`"${text}" is not understood. Try ${example}.`);
  return found;
}

export function checkedPart(values: { pictures?: string; region?: string }): CheckOptions {
  const [from = 0, to = 0] = values.pictures === undefined ? [] : numbers(values.pictures, '-', 2, '100-250');
  if (values.pictures !== undefined && to <= from)
    throw new WrongCall('--pictures wants the first picture and the one after the last.');
  const [x = 0, y = 0, width = 0, height = 0] =
    values.region === undefined ? [] : numbers(values.region, ',', 4, '0,0,640,300: left, top, width and height');
  return {
    range: values.pictures === undefined ? null : { from, to },
    region: values.region === undefined ? null : { x, y, width, height },
  };
}

export function fieldsOf(text: string): FieldChoice {
  const found = FIELD_CHOICES.find((choice) => choice === text);
  if (!found) throw new WrongCall(`"${text}" is no way to read fields. These are: ${FIELD_CHOICES.join(', ')}.`);
  return found;
}

export function orderOf(text: string): OrderChoice {
  const found = ORDER_CHOICES.find((choice) => choice === text);
  if (!found) throw new WrongCall(`"${text}" is no order of fields. These are: ${ORDER_CHOICES.join(', ')}.`);
  return found;
}

export function lowPassOf(text: string): LowPass {
  const found = LOW_PASSES.find((strength) => strength === text);
  if (!found) throw new WrongCall(`"${text}" is no low-pass. These are: ${LOW_PASSES.join(', ')}.`);
  return found;
}

/** A colour by name or number. */
export function overOf(text: string): Paint {
  const paint = paintOf(text);
  if (!paint) throw new WrongCall(`"${text}" is no colour. These are: ${Object.keys(PAINTS).join(', ')}, or #rrggbb.`);
  return paint;
}

/** Whether pictures are of all around. */
export function sphereOf(text: string): boolean {
  if (text !== 'flat' && text !== 'equirectangular')
    throw new WrongCall(`"${text}" is no projection. These are: flat, equirectangular.`);
  return text === 'equirectangular';
}

export function shutterOf(text: string): number {
  const degrees = Number(text);
  if (text.trim() === '' || !(Number.isInteger(degrees) && degrees >= 0 && degrees <= SHUTTER_MAX))
    throw new WrongCall(`"${text}" is not a shutter from 0 to ${SHUTTER_MAX} whole degrees.`);
  return degrees;
}

const MOST_THREADS = 64;

export function threadsOf(text: string | undefined): number {
  if (text === undefined) return Math.min(MOST_THREADS, availableParallelism());
  const count = Number(text);
  if (!(Number.isInteger(count) && count >= 1 && count <= MOST_THREADS))
    throw new WrongCall(`"${text}" is not a number of threads from 1 to ${MOST_THREADS}.`);
  return count;
}

const METHODS: readonly MakeMethod[] = ['nearest', 'blend', 'motion'];

export function methodOf(text: string): MakeMethod {
  const method = METHODS.find((m) => m === text);
  if (!method) throw new WrongCall(`"${text}" is not a method. Try nearest, blend or motion.`);
  return method;
}

export function mixOf(text: string): Mix {
  const mix = MIXES.find((m) => m === text);
  if (!mix) throw new WrongCall(`"${text}" is not a way to mix. Try stored or light.`);
  return mix;
}

export function speedOf(text: string): Rate {
  const speed = parseSpeed(text);
  if (!speed) {
    throw new WrongCall(`"${text}" is not a speed from ${SPEED_MIN * 100} % to ${SPEED_MAX * 100} %. Try 0.25, 25% or 1/4.`);
  }
  return speed;
}
