import type { Source } from '@thawline/project';
import { useState } from 'react';
import { pictureAddress, thumbsAddress } from '../../../shared/player/pictures.js';
import { WholeWave } from '../../../shared/waveform/WholeWave.js';
import classes from './sources.module.css';

/** As many pictures as the server's strip has. */
const TILES = 16;

/** A small picture; moving over it goes through the clip. Before the proxy is made, one picture from the file itself. */
export function Thumb({ source, strip }: { source: Source; strip: boolean }) {
  const tiles = Math.min(TILES, source.pictures);
  const still = Math.floor(tiles / 3);
  const [tile, setTile] = useState<number | null>(null);
  if (source.kind === 'sound') return <WholeWave source={source} width={60} height={36} className={classes.soundThumb} />;
  if (!strip) {
    return (
      <img
        src={pictureAddress(source.mediaId, Math.floor(source.pictures / 3))}
        alt=""
        className={classes.thumb}
        loading="lazy"
        onError={(e) => {
          e.currentTarget.style.visibility = 'hidden';
        }}
      />
    );
  }
  const shown = tile ?? still;
  const place = tiles > 1 ? (100 * shown) / (tiles - 1) : 0;
  const wide = source.width / source.height >= 60 / 36;
  return (
    <span
      className={classes.thumb}
      data-testid={`thumb-${source.name}`}
      data-tile={shown}
      onPointerMove={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        setTile(Math.min(tiles - 1, Math.max(0, Math.floor(((e.clientX - box.left) / box.width) * tiles))));
      }}
      onPointerLeave={() => setTile(null)}
    >
      <i
        style={{
          aspectRatio: `${source.width} / ${source.height}`,
          ...(wide ? { width: '100%' } : { height: '100%' }),
          backgroundImage: `url(${thumbsAddress(source.mediaId)})`,
          backgroundSize: `${tiles * 100}% 100%`,
          backgroundPosition: `${place}% 0`,
        }}
      />
      {tile !== null && <b style={{ left: `${(100 * (tile + 0.5)) / tiles}%` }} />}
    </span>
  );
}
