import type { Layer } from '@thawline/project';
import type { CSSProperties } from 'react';
import { pictureAddress } from '../../../shared/player/pictures.js';
import { useView } from '../../../shared/state/view.js';
import classes from './viewer.module.css';

/** A layer at its place, whole and cut to what is seen; a group is one. */
export function LayerPicture({ layer, aspect }: { layer: Layer; aspect: number }) {
  if ('layers' in layer)
    return (
      <div className={classes.layer} style={{ opacity: layer.opacity }}>
        {layer.layers.map((one, i) => (
          <LayerPicture key={i} layer={one} aspect={aspect} />
        ))}
      </div>
    );
  const { source, picture, opacity, matrix, seen } = layer;
  const percent = (n: number): string => `${n * 100}%`;
  const corners = seen.map(({ x, y }) => `${percent(x)} ${percent(y)}`).join(', ');
  const cut = { opacity, clipPath: `polygon(${corners})` };
  if (!source) return <Ground style={cut} />;
  if (source.lost) {
    return (
      <div className={classes.layer} style={cut} data-lost>
        {source.name} is not found yet
      </div>
    );
  }
  // The picture fills the frame and is brought to its place from there; of shares of its sides the screen makes pixels.
  const { a, b, c, d, e, f } = matrix;
  const transform = `translate(${percent(e)}, ${percent(f)}) matrix(${a}, ${b / aspect}, ${c * aspect}, ${d}, 0, 0)`;
  return (
    <div className={classes.layer} style={cut}>
      <img src={pictureAddress(source.mediaId, picture)} alt={`Picture ${picture} of ${source.name}`} style={{ transform }} />
    </div>
  );
}

/** What stands behind all. */
function Ground({ style }: { style: CSSProperties }) {
  const backdrop = useView((s) => s.backdrop);
  return <div className={`${classes.layer} ${classes.backdrop}`} data-backdrop={backdrop} style={style} />;
}
