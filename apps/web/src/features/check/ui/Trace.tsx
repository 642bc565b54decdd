import { Button, useComputedColorScheme } from '@mantine/core';
import type { CheckReply } from '@thawline/contract';
import type { Verdict } from '@thawline/core/truth';
import { foreseen, setApart } from '@thawline/project';
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  type ChartConfiguration,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  Tooltip,
} from 'chart.js';
import { useEffect, useMemo, useRef, useState } from 'react';
import '../../../shared/player/charts.js';
import { count } from '../../../shared/words.js';
import { flagsOf } from '../model/findings.js';
import classes from './check.module.css';
import { Lanes } from './Lanes.js';

Chart.register(
  ...[BarController, BarElement, LineController, LineElement, PointElement],
  ...[CategoryScale, LinearScale, LogarithmicScale, Tooltip],
);

/** No more bars than this: in longer clips each bar is the largest change of its pictures, held ones keep a bar of their own. */
const MOST_BARS = 900;
const FLOOR = 0.02;

interface Bar {
  readonly picture: number;
  readonly change: number;
  readonly held: boolean;
  /** What the pictures around foresee; null where none are. */
  readonly foreseen: number | null;
}

/** Changes of the trace that are shown, `to` not included. */
interface Span {
  readonly from: number;
  readonly to: number;
}
/** Closer than so many changes nothing more is seen. */
const LEAST_SPAN = 24;

const perBar = ({ from, to }: Span): number => Math.max(1, Math.ceil((to - from) / MOST_BARS));

/** @param held one a picture of the file, 1 where it holds */
function barsOf(check: CheckReply, verdict: Verdict, held: Uint8Array, span: Span): Bar[] {
  const trace = { changes: check.trace, from: check.range.from };
  const [apart, cuts] = [setApart(verdict), new Set(verdict.cuts)];
  const per = perBar(span);
  const first = check.range.from + 1;
  const bars: Bar[] = [];
  for (let at = span.from; at < span.to; at += per) {
    const end = Math.min(at + per, span.to);
    let best = at;
    let holds = held[first + at] as number;
    for (let i = at + 1; i < end; i++) {
      const hold = held[first + i] as number;
      if (hold > holds || (hold === holds && (check.trace[i] as number) > (check.trace[best] as number)))
        [best, holds] = [i, hold];
    }
    bars.push({
      picture: first + best,
      change: Math.max(FLOOR, check.trace[best] as number),
      held: holds === 1,
      foreseen: foreseen(first + best, trace, apart, cuts),
    });
  }
  return bars;
}

/** Change of every picture from the one before, on a log scale. A press goes to the picture. */
export function Trace({
  check,
  verdict,
  picture,
  onPicture,
}: {
  check: CheckReply;
  /** With what a person said of single pictures. */
  verdict: Verdict;
  picture: number;
  onPicture: (picture: number) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const scheme = useComputedColorScheme('light');
  const length = check.trace.length;
  const [span, setSpan] = useState<Span>({ from: 0, to: length });
  const held = useMemo(() => flagsOf(verdict.held, check.range.to + 1), [check, verdict]);
  const bars = useMemo(() => barsOf(check, verdict, held, span), [check, verdict, held, span]);
  const first = check.range.from + 1;
  const lanes = useMemo(() => ({ from: first + span.from, to: first + span.to }), [first, span]);
  const place = useRef<HTMLDivElement>(null);
  useWheel(place, length, setSpan);
  const drag = useRef<{ x: number; from: number } | null>(null);
  // The end of a drag is no press.
  const dragged = useRef(false);
  const go = useRef(onPicture);
  go.current = (to) => !dragged.current && onPicture(to);
  const here = Math.floor((picture - 1 - check.range.from - span.from) / perBar(span));
  const inSpan = here >= 0 && here < bars.length;
  // What is gone to by keys comes into view.
  useEffect(() => {
    const at = picture - 1 - check.range.from;
    setSpan((s) => (at >= 0 && at < length && (at < s.from || at >= s.to) ? centred(at, s.to - s.from, length) : s));
  }, [picture, check, length]);
  const chart = useRef<Chart<'bar' | 'line'>>(null);
  const shown = useRef(bars);
  shown.current = bars;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a chart reads the scheme's colours when it is made
  useEffect(() => {
    if (!canvas.current) return undefined;
    const made = new Chart(canvas.current, look(shown, go));
    chart.current = made;
    return () => {
      chart.current = null;
      made.destroy();
    };
    // The scheme's own colours are read when it is made.
  }, [scheme]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: role() reads the scheme's colours
  useEffect(() => {
    const { current } = chart;
    if (!current) return;
    const [ice, ink, fjord] = [role('--ice'), role('--ink'), role('--fjord')];
    current.data = {
      labels: bars.map((b) => b.picture),
      datasets: [
        {
          type: 'line',
          data: bars.map((b) => b.foreseen),
          borderColor: fjord,
          borderWidth: 1.5,
          pointRadius: 0,
          pointHoverRadius: 0,
          spanGaps: true,
        },
        {
          type: 'bar',
          data: bars.map((b) => b.change),
          backgroundColor: bars.map((b) => (b.held ? ice : ink)),
          barPercentage: 0.62,
          categoryPercentage: 1,
          minBarLength: 2,
        },
      ],
    };
    current.update('none');
  }, [bars, scheme]);
  return (
    <div className={classes.trace}>
      <div className={classes.head}>
        <h2 className="heading">Change from picture to picture</h2>
        <span className="quiet">
          {span.to - span.from < length ? (
            <Button size="compact-xs" variant="default" onClick={() => setSpan({ from: 0, to: length })}>
              All {count(length + 1)}
            </Button>
          ) : (
            'Ctrl and wheel zoom, drag moves'
          )}{' '}
          &middot; log scale &middot; line: foreseen
        </span>
      </div>
      <div
        ref={place}
        className={classes.chart}
        data-testid="trace-place"
        data-from={span.from}
        data-to={span.to}
        onPointerDown={(e) => {
          drag.current = { x: e.clientX, from: span.from };
          dragged.current = false;
        }}
        onPointerMove={(e) => {
          const { current } = drag;
          if (!current || e.buttons === 0 || Math.abs(e.clientX - current.x) < 4) return;
          dragged.current = true;
          const wide = span.to - span.from;
          const by = Math.round(((current.x - e.clientX) / e.currentTarget.clientWidth) * wide);
          const from = Math.max(0, Math.min(length - wide, current.from + by));
          setSpan({ from, to: from + wide });
        }}
        onPointerUp={() => {
          drag.current = null;
        }}
      >
        <canvas ref={canvas} aria-label={`Change of ${count(check.trace.length)} pictures`} role="img" data-testid="trace" />
        {inSpan && picture > 0 && (
          <i className={classes.here} style={{ left: `calc(34px + (100% - 42px) * ${(here + 0.5) / bars.length})` }} />
        )}
      </div>
      <Lanes verdict={verdict} shown={lanes} onPicture={onPicture} />
    </div>
  );
}

/** A colour of the scheme. */
function role(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

function look(
  bars: React.RefObject<readonly Bar[]>,
  go: React.RefObject<(picture: number) => void>,
): ChartConfiguration<'bar' | 'line'> {
  const quiet = role('--quiet');
  return {
    type: 'bar',
    data: { labels: [], datasets: [] },
    options: {
      animation: false,
      maintainAspectRatio: false,
      onClick: (_event, elements) => {
        const bar = bars.current[elements[0]?.index ?? -1];
        if (bar) go.current(bar.picture);
      },
      interaction: { mode: 'index', intersect: false },
      plugins: {
        legend: { display: false },
        tooltip: {
          displayColors: false,
          callbacks: {
            title: (items) => `picture ${items[0]?.label}`,
            label: (item) =>
              item.datasetIndex === 0
                ? `foreseen ${Number(item.raw).toFixed(2)}`
                : `change ${Number(item.raw).toFixed(2)}${bars.current[item.dataIndex]?.held ? ', held' : ''}`,
          },
        },
      },
      scales: {
        x: { ticks: { color: quiet, maxTicksLimit: 12, maxRotation: 0, autoSkipPadding: 20 }, grid: { display: false } },
        y: {
          type: 'logarithmic',
          min: FLOOR,
          ticks: { color: quiet, callback: (v) => ([0.1, 1, 10, 100].includes(Number(v)) ? v : '') },
          grid: { color: role('--line') },
        },
      },
    },
  };
}

function centred(at: number, wide: number, length: number): Span {
  const from = Math.max(0, Math.min(length - wide, at - (wide >> 1)));
  return { from, to: from + wide };
}

/** Ctrl and the wheel zoom about the pointer: the picture beneath it stays there. */
function useWheel(
  place: React.RefObject<HTMLDivElement | null>,
  length: number,
  setSpan: React.Dispatch<React.SetStateAction<Span>>,
): void {
  useEffect(() => {
    const element = place.current;
    if (!element) return undefined;
    const onWheel = (event: WheelEvent): void => {
      // Without Ctrl the wheel scrolls, as on the lanes.
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      const box = element.getBoundingClientRect();
      const share = Math.max(0, Math.min(1, (event.clientX - box.left - 34) / (box.width - 42)));
      setSpan(({ from, to }) => {
        const wide = Math.max(
          Math.min(LEAST_SPAN, length),
          Math.min(length, Math.round((to - from) * Math.exp(event.deltaY / 300))),
        );
        const at = from + share * (to - from);
        const start = Math.max(0, Math.min(length - wide, Math.round(at - share * wide)));
        return { from: start, to: start + wide };
      });
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [place, length, setSpan]);
}
