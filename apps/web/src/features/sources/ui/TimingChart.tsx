import { Button, Group, useComputedColorScheme } from '@mantine/core';
import type { Timing } from '@thawline/core/time';
import { Chart, Decimation, LinearScale, LineController, LineElement, PointElement, Tooltip } from 'chart.js';
import Zoom from 'chartjs-plugin-zoom';
import { useEffect, useMemo, useRef } from 'react';
import '../../../shared/player/charts.js';
import { count } from '../../../shared/words.js';
import classes from './sources.module.css';

Chart.register(Decimation, LinearScale, LineController, LineElement, PointElement, Tooltip, Zoom);

/** Time from each picture's start to the next one's, in ms, of every picture. Wheel or buttons zoom, drag pans. */
export function TimingChart({ timing, usual }: { timing: Timing & { kind: 'variable' }; usual: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const chart = useRef<Chart<'line', { x: number; y: number }[]> | null>(null);
  const scheme = useComputedColorScheme('light');
  const points = useMemo(() => {
    const ms = (1000 * timing.timeBase.den) / timing.timeBase.num;
    return Array.from({ length: timing.ticks.length }, (_, k) => ({
      x: k,
      y: ((timing.ticks[k + 1] ?? timing.end) - (timing.ticks[k] as number)) * ms,
    }));
  }, [timing]);
  useEffect(() => {
    if (!canvas.current || !scheme) return;
    const style = getComputedStyle(document.documentElement);
    const role = (name: string): string => style.getPropertyValue(name).trim();
    const last = points.length - 1;
    const made = new Chart(canvas.current, {
      type: 'line',
      data: {
        datasets: [
          {
            data: points,
            stepped: 'before',
            borderColor: role('--ink'),
            borderWidth: 1.2,
            pointRadius: 0,
            pointHitRadius: 6,
            parsing: false,
            normalized: true,
          },
          {
            data: [
              { x: 0, y: usual },
              { x: last, y: usual },
            ],
            borderColor: role('--rust'),
            borderWidth: 1,
            borderDash: [4, 4],
            pointRadius: 0,
            parsing: false,
          },
        ],
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        interaction: { mode: 'nearest', axis: 'x', intersect: false },
        plugins: {
          legend: { display: false },
          decimation: { enabled: true, algorithm: 'min-max' },
          tooltip: {
            displayColors: false,
            filter: (item) => item.datasetIndex === 0,
            callbacks: {
              title: (items) => `picture ${items[0]?.parsed.x}`,
              label: (item) => `${Number(item.parsed.y).toFixed(2)} ms`,
            },
          },
          zoom: {
            limits: { x: { min: 0, max: last, minRange: 8 } },
            pan: { enabled: true, mode: 'x' },
            zoom: { wheel: { enabled: true }, mode: 'x' },
          },
        },
        scales: {
          x: {
            type: 'linear',
            min: 0,
            max: last,
            ticks: { color: role('--quiet'), maxTicksLimit: 8, precision: 0 },
            grid: { display: false },
          },
          y: { beginAtZero: true, ticks: { color: role('--quiet'), maxTicksLimit: 5 }, grid: { color: role('--line') } },
        },
      },
    });
    chart.current = made;
    return () => made.destroy();
  }, [points, usual, scheme]);
  return (
    <div>
      <div className={classes.timing}>
        <canvas ref={canvas} role="img" aria-label={`Time between ${count(points.length)} pictures`} data-testid="timing-chart" />
      </div>
      <Group gap={6} mt={4}>
        <Button size="compact-xs" variant="default" onClick={() => chart.current?.zoom(1.4)}>
          Closer
        </Button>
        <Button size="compact-xs" variant="default" onClick={() => chart.current?.zoom(0.6)}>
          Wider
        </Button>
        <Button size="compact-xs" variant="default" onClick={() => chart.current?.pan({ x: 120 })} aria-label="Earlier">
          &larr;
        </Button>
        <Button size="compact-xs" variant="default" onClick={() => chart.current?.pan({ x: -120 })} aria-label="Later">
          &rarr;
        </Button>
        <Button size="compact-xs" variant="default" onClick={() => chart.current?.resetZoom()}>
          All
        </Button>
      </Group>
    </div>
  );
}
