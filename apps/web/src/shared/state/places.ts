import { useCallback } from 'react';
import { type DataRouter, useNavigate, useParams } from 'react-router';

/** Addresses of places in a project; links and reload keep them. */
export const VIEWS = ['sources', 'timelines', 'retime', 'align', 'check', 'render'] as const;
export type View = (typeof VIEWS)[number];

export function place(project: string, view: View, ...rest: (string | number | undefined)[]): string {
  return ['/p', project, view, ...rest.filter((part) => part !== undefined).map(String)].join('/');
}

/** Path a navigation under way leads to, else the path of the address. */
let heading = '';

/** Keeps what the router says of where the person is going; a component hears of it only when the view's script has come. */
export function followHeading(router: Pick<DataRouter, 'state' | 'subscribe'>): void {
  const keep = ({ navigation, location }: DataRouter['state']): void => {
    heading = (navigation.location ?? location).pathname;
  };
  keep(router.state);
  router.subscribe(keep);
}

/** Whether the person is in a view, or on the way there: who has gone elsewhere is not called back. */
export function headedFor(view: View): boolean {
  return heading.split('/')[3] === view;
}

/**
 * Goes to a place of the project that is open. The view stands there when this returns, if its script is loaded: a key pressed in the
 * same breath as a click means what was clicked, not what was there before.
 */
export function useGo(): (view: View, ...rest: (string | number | undefined)[]) => void {
  const navigate = useNavigate();
  const { project = '' } = useParams();
  return useCallback((view, ...rest) => void navigate(place(project, view, ...rest), { flushSync: true }), [navigate, project]);
}
