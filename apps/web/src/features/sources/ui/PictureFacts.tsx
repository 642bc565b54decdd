import { Select } from '@mantine/core';
import { aspectOf, PROJECTIONS, type Source } from '@thawline/project';
import { useProject } from '../../../api/ProjectProvider.js';
import { pictureFacts, pictureRemarks } from '../model/pictureFacts.js';
import classes from './sources.module.css';

/** What the file says of its pictures: samples, colours, light, shape. */
export function PictureFacts({ source }: { readonly source: Source }) {
  const facts = pictureFacts(source);
  if (facts.length === 0) return null;
  return (
    <section aria-label="Pictures as stored">
      <h3 className={classes.sub}>Pictures as stored</h3>
      <dl className={classes.facts}>
        {facts.map(({ name, words }) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
      <SeenAs source={source} />
    </section>
  );
}

/** Pictures of all around are twice as wide as high. */
const AROUND_ASPECT = 2;
const AS_FILE = 'file';

/** Whether it is a picture of all around, whatever the file says. Asked where it may be one. */
function SeenAs({ source }: { readonly source: Source }) {
  const { run } = useProject();
  if (source.kind === 'sound' || source.kind === 'timeline') return null;
  const { projection, looks } = source;
  const may = Math.abs(aspectOf(source) / AROUND_ASPECT - 1) < 0.02;
  if (!may && !projection && !looks?.projection) return null;
  return (
    <Select
      label="Seen as"
      size="xs"
      mt={6}
      data={[
        { value: AS_FILE, label: `as its file says: ${looks?.projection === 'equirectangular' ? 'all around' : 'flat'}` },
        { value: 'flat', label: 'flat' },
        { value: 'equirectangular', label: 'all around (360\u00b0), equirectangular' },
      ]}
      value={projection ?? AS_FILE}
      allowDeselect={false}
      onChange={(value) =>
        void run({ type: 'setProjection', sourceIds: [source.id], projection: PROJECTIONS.find((p) => p === value) ?? null })
      }
    />
  );
}

/** What of its pictures needs care, a sentence each. */
export function PictureRemarks({ source }: { readonly source: Source }) {
  return pictureRemarks(source).map(({ remark, words, odd }) => (
    <div key={remark} className="notice" data-tone={odd ? 'rust' : undefined}>
      {words}
    </div>
  ));
}
