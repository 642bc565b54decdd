import type { JobReply } from '@thawline/contract';
import { emptyProject } from '@thawline/project';
import { madeSource, madeStill } from '@thawline/project/fixture';
import { checksUnderWay, chosenSources, sourcesToCheck } from './chosenSources.js';

const [pan, floes, still] = [madeSource('pan'), madeSource('floes'), madeStill('still')];
const project = { ...emptyProject('Thaw'), sources: [pan, floes, still] };

test('buttons are about the chosen sources in the order of the list; with none chosen, about the open one', () => {
  expect(chosenSources(project, ['still', 'gone', 'pan'], floes).meant).toEqual([pan, still]);
  expect(chosenSources(project, [], floes)).toEqual({ chosen: [], meant: [floes] });
  expect(chosenSources(project, [], undefined).meant).toEqual([]);
});

test('what moves is checked: the chosen ones again, else all that were not yet', () => {
  const done = new Set(['m-pan']);
  const none = new Set<string>();
  expect(sourcesToCheck(project, [pan, still], done, none)).toEqual([pan]);
  expect(sourcesToCheck(project, [], done, none)).toEqual([floes]);
  expect(sourcesToCheck(project, [], done, new Set(['m-floes']))).toEqual([]);
});

test('a check is under way while it runs or waits', () => {
  const job = (kind: string, state: string, subject: string) => ({ kind, state, subject }) as JobReply;
  const jobs = [
    job('check', 'running', 'a'),
    job('check', 'queued', 'b'),
    job('check', 'done', 'c'),
    job('proxy', 'running', 'd'),
  ];
  expect([...checksUnderWay(jobs).keys()]).toEqual(['a', 'b']);
});
