import { applyDecorators, Delete, Get, HttpCode, Post } from '@nestjs/common';
import { type RouteName, routes } from '@thawline/contract';

const METHODS = { get: Get, post: Post, delete: Delete } as const;

/** Serves a route of the contract: its method and path are there alone. Whoever answers by hand sets another status than 200. */
export function Route(name: RouteName): MethodDecorator {
  const { method, path } = routes[name];
  return applyDecorators(METHODS[method](path.replace(/\{(\w+)\}/g, ':$1')), HttpCode(200));
}
