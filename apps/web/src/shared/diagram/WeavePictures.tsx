import type { WeaveLayout } from './layout.js';
import classes from './weave.module.css';
import type { WeaveProps } from './weaveProps.js';
import { BOX, type WeaveScale } from './weaveScale.js';

interface Props {
  readonly layout: WeaveLayout;
  readonly scale: WeaveScale;
  readonly pictureAt: WeaveProps['pictureAt'];
}

/** The upper row: source pictures, as a film strip where there is room. */
export function WeavePictures({ layout, scale, pictureAt }: Props) {
  const { x, top, strip, numbered, pictureWidth } = scale;
  return layout.pictures.map((p) => (
    <g key={p.picture} transform={`translate(${x(p.at)} 0)`} data-skipped={p.skipped || undefined}>
      {strip && (
        <image
          href={pictureAt?.(p.picture)}
          x={-strip.width / 2}
          y={top - 6 - strip.height}
          width={strip.width}
          height={strip.height}
          preserveAspectRatio="xMidYMid slice"
          opacity={p.skipped ? 0.35 : 1}
          data-testid={`strip-${p.picture}`}
        />
      )}
      <rect
        x={-pictureWidth / 2}
        y={top}
        width={pictureWidth}
        height={BOX}
        rx={numbered ? 3 : 1.5}
        className={p.skipped ? classes.skipped : classes.picture}
      />
      {numbered && pictureWidth >= 24 && !p.skipped && (
        <text x={0} y={top + 17} className={classes.pictureNumber}>
          {p.picture}
        </text>
      )}
      {p.skipped && pictureWidth >= 24 && (
        <text
          x={0}
          y={strip ? top - 2 - strip.height / 2 : top - 5}
          className={classes.skippedWord}
          data-over={strip !== null || undefined}
        >
          skipped
        </text>
      )}
    </g>
  ));
}
