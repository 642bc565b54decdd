import { Chart } from 'chart.js';

/** Charts write numbers as everything else does. Imported by every chart before it draws. */
Chart.defaults.font.family = "'Spline Sans Mono Variable', monospace";
