import { z } from 'zod';
import { errorSchema } from './errors.js';
import { type Route, routes } from './routes.js';

const json = (schema: z.ZodType): object => ({
  'application/json': { schema: z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }) },
});

function describeRoute(name: string, route: Route): object {
  const parameter = (name: string | undefined, place: 'path' | 'query'): object => ({
    name,
    in: place,
    required: place === 'path',
    schema: { type: 'string' },
  });
  const parameters = [
    ...[...route.path.matchAll(/\{(\w+)\}/g)].map((m) => parameter(m[1], 'path')),
    ...Object.keys(route.query?.shape ?? {}).map((key) => parameter(key, 'query')),
  ];
  const files = {
    'multipart/form-data': { schema: { type: 'object', properties: { file: { type: 'string', format: 'binary' } } } },
  };
  return {
    operationId: name,
    summary: route.summary,
    parameters,
    ...(route.body ? { requestBody: { required: true, content: route.body === 'files' ? files : json(route.body) } } : {}),
    responses: {
      200: {
        description: 'Done',
        content: 'type' in route.reply && !('parse' in route.reply) ? { [route.reply.type]: {} } : json(route.reply as z.ZodType),
      },
      default: { description: 'Turned down', content: json(errorSchema) },
    },
  };
}

/** OpenAPI 3.1 of all routes, made from the same schemas that check requests. */
export function openapi(version: string): Record<string, unknown> {
  const paths: Record<string, Record<string, object>> = {};
  for (const [name, route] of Object.entries(routes)) {
    const path = `/api${route.path}`;
    paths[path] = { ...paths[path], [route.method]: describeRoute(name, route) };
  }
  return { openapi: '3.1.0', info: { title: 'Thawline', version }, paths };
}
