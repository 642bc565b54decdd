/** Chart.js without a canvas to draw on: what a chart was given last can be asked for. Pixels are the stories' to look at. */
export class Chart<_Kind = string> {
  static readonly defaults = { font: { family: '' } };
  static all: Chart[] = [];
  data: unknown;

  constructor(
    _canvas: unknown,
    readonly config: { readonly data: unknown; readonly options: unknown },
  ) {
    this.data = config.data;
    Chart.all.push(this);
  }

  static register(): void {
    // There is nothing to draw with.
  }

  update(): void {
    // What is shown is `data`.
  }

  destroy(): void {
    Chart.all = Chart.all.filter((c) => c !== this);
  }
}

const part = {};

export {
  part as BarController,
  part as BarElement,
  part as CategoryScale,
  part as Decimation,
  part as LinearScale,
  part as LineController,
  part as LineElement,
  part as LogarithmicScale,
  part as PointElement,
  part as Tooltip,
};
