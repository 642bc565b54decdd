import { useCallback } from 'react';
import { useNavigate, useParams } from 'react-router';

/** Addresses of places in a project; links and reload keep them. */
export const VIEWS = ['sources', 'timelines', 'check', 'render'] as const;
export type View = (typeof VIEWS)[number];

export function place(project: string, view: View, ...rest: (string | number | undefined)[]): string {
  return ['/p', project, view, ...rest.filter((part) => part !== undefined).map(String)].join('/');
}

/** Goes to a place of the project that is open. */
export function useGo(): (view: View, ...rest: (string | number | undefined)[]) => void {
  const navigate = useNavigate();
  const { project = '' } = useParams();
  return useCallback((view, ...rest) => void navigate(place(project, view, ...rest)), [navigate, project]);
}
