import { Group, NumberInput, Select, Switch, TextInput } from '@mantine/core';
import type { OutputsReply } from '@thawline/contract';
import {
  bearsAlpha,
  type Chroma,
  CODECS,
  chromasOf,
  chromaWords,
  codingWords,
  depthsOf,
  FORM_KINDS,
  FORMS,
  type FormCodec,
  type FormKind,
  fileNameOf,
  formFields,
  gradesOf,
  isSeries,
  qualityRange,
  qualityWords,
  SOUND_WORDS,
  type SoundCodec,
  settledForm,
  type Timeline,
  widestSound,
} from '@thawline/project';
import { useMemo } from 'react';
import { useProject } from '../../../../api/ProjectProvider.js';
import { useRenderWishes } from '../../../../shared/state/renderWishes.js';
import classes from '../render.module.css';
import { FieldsRow } from './FieldsRow.js';
import { GroundRow } from './GroundRow.js';
import { NumberedRow } from './NumberedRow.js';
import { OtherRate } from './OtherRate.js';
import { Presets } from './Presets.js';
import { SoundPeak } from './SoundPeak.js';

/** What the file is to be. */
export function FormCard({ timeline, outputs }: { timeline: Timeline; outputs: OutputsReply | undefined }) {
  const { project } = useProject();
  const asked = useRenderWishes();
  const form = settledForm(asked.form);
  const { change } = asked;
  const facts = FORMS[form.kind];
  const { codec } = form;
  const quality = qualityRange(form);
  const depths = depthsOf(form);
  const chromas = chromasOf(form);
  const grades = gradesOf(form);
  const widest = useMemo(() => widestSound(project, timeline), [project, timeline]);
  const badName = asked.name.trim() !== '' && fileNameOf(asked.name) === null;
  return (
    <div className={classes.form} data-testid="form">
      <Presets />
      <div className={classes.formLine}>
        <Select
          label="Form"
          size="xs"
          data={FORM_KINDS.map((kind) => ({ value: kind, label: kindWords(kind) }))}
          value={form.kind}
          allowDeselect={false}
          onChange={(kind) => kind && change({ kind: kind as FormKind })}
        />
        {quality && (
          <NumberInput
            label="Quality"
            size="xs"
            classNames={{ input: 'number' }}
            value={form.quality}
            min={quality.best}
            max={quality.worst}
            allowDecimal={false}
            aria-describedby="quality-words"
            onChange={(n) => typeof n === 'number' && change({ codec, quality: n })}
          />
        )}
      </div>
      {quality && (
        <p id="quality-words" className={`quiet ${classes.words}`} data-testid="quality-words">
          <span className="number">{form.quality}</span> is {qualityWords(codec, form.quality)}. The finest is{' '}
          <span className="number">{quality.best}</span>
          {form.quality === quality.like ? (
            '.'
          ) : (
            <>
              ; as good to the eye, <span className="number">{quality.like}</span>.
            </>
          )}
        </p>
      )}
      <div className={classes.formPair}>
        {facts.codecs.length > 1 && (
          <Select
            label="Pictures are coded as"
            size="xs"
            data={facts.codecs.map((c) => ({ value: c, label: CODECS[c].words }))}
            value={codec}
            allowDeselect={false}
            onChange={(c) => c && change({ codec: c as FormCodec, quality: CODECS[c as FormCodec].quality?.like ?? null })}
          />
        )}
        {chromas.length > 1 && (
          <Select
            label="Colour detail"
            size="xs"
            data={chromas.map((value) => ({ value, label: CHROMA_LABELS[value] }))}
            value={form.chroma}
            allowDeselect={false}
            onChange={(value) => value && change({ chroma: value as Chroma })}
          />
        )}
      </div>
      <div className={classes.formPair}>
        {depths.length > 1 && (
          <Select
            label="Depth"
            size="xs"
            data={depths.map((depth) => ({ value: String(depth), label: `${depth} bit` }))}
            value={String(form.depth)}
            allowDeselect={false}
            onChange={(depth) => change({ depth: depths.find((one) => String(one) === depth) ?? form.depth })}
          />
        )}
        {grades.length > 1 && (
          <Select
            label="Grade"
            size="xs"
            data={grades.map((name, i) => ({ value: String(i), label: name }))}
            value={String(form.grade)}
            allowDeselect={false}
            onChange={(grade) => grade && change({ grade: Number(grade) })}
          />
        )}
        {facts.sounds.length > 1 && (facts.sound === 'alone' || form.sound !== 'off') && (
          <Select
            label={facts.sound === 'within' ? 'Sound is coded as' : 'Its WAV holds'}
            size="xs"
            data={facts.sounds.map((value) => ({ value, label: SOUND_WORDS[value] }))}
            value={form.soundCodec}
            allowDeselect={false}
            onChange={(value) => value && change({ soundCodec: value as SoundCodec })}
          />
        )}
      </div>
      {isSeries(form.kind) && <NumberedRow ending={facts.ending} />}
      {form.kind !== 'wav' && <GroundRow bears={bearsAlpha(form)} />}
      {facts.lossless && facts.sound !== 'alone' && (
        <p className={`quiet ${classes.words}`}>Lossless: every picture comes back exactly.</p>
      )}
      {form.kind === 'exr' && (
        <p className={`quiet ${classes.words}`}>
          Light itself, in half floats: white is 1, and lights of high dynamic range go above it. Colour is multiplied by alpha.
        </p>
      )}
      {!quality && !facts.lossless && form.kind !== 'exr' && (
        <p className={`quiet ${classes.words}`}>
          {codingWords(form)}, {chromaWords(form.chroma)}
          {depths.length === 1 && `, ${form.depth} bit`}: {qualityWords(codec, form.quality)}.
        </p>
      )}
      <Group gap="md">
        {facts.sound !== 'alone' && (
          <Switch
            size="xs"
            label="Sound"
            checked={form.sound !== 'off'}
            onChange={(e) => change({ sound: e.currentTarget.checked ? 'stereo' : 'off' })}
          />
        )}
        {widest > 2 && (facts.sound === 'alone' || form.sound !== 'off') && (
          <Switch
            size="xs"
            label={`All ${widest} channels`}
            checked={form.sound === 'all'}
            onChange={(e) => change({ sound: e.currentTarget.checked ? 'all' : 'stereo' })}
          />
        )}
        {facts.timecode && (
          <Switch
            size="xs"
            label="Timecode"
            checked={form.timecode}
            onChange={(e) => change({ timecode: e.currentTarget.checked })}
          />
        )}
      </Group>
      {facts.fields && <FieldsRow timeline={timeline} />}
      {(facts.sound === 'alone' || form.sound !== 'off') && <SoundPeak />}
      {form.kind !== 'wav' && !formFields(form, timeline)?.pulldown && <OtherRate timeline={timeline} />}
      <TextInput
        label="Name"
        size="xs"
        placeholder="made of the timeline's"
        value={asked.name}
        error={badName && 'Leave out / \\ : * ? " < > | and a dot in front.'}
        onChange={(e) => asked.set({ name: e.currentTarget.value })}
        rightSection={<span className="quiet">{isSeries(form.kind) ? 'folder' : `.${facts.ending}`}</span>}
        rightSectionWidth={52}
      />
      {(outputs?.folders.length ?? 0) > 1 && (
        <Select
          label="Folder"
          size="xs"
          data={outputs?.folders.map((f) => ({ value: f.name, label: f.path }))}
          value={asked.folder ?? outputs?.folders[0]?.name ?? null}
          allowDeselect={false}
          onChange={(folder) => asked.set({ folder })}
        />
      )}
    </div>
  );
}

/** Chroma as people name it, and what it is. */
const CHROMA_LABELS: Record<Chroma, string> = {
  '420': '4:2:0 (a quarter)',
  '422': '4:2:2 (half)',
  '444': '4:4:4 (every pixel)',
  rgb: 'RGB (no luma)',
};

function kindWords(kind: FormKind): string {
  const { words, codecs, sound, sounds } = FORMS[kind];
  const coded = codecs.length > 0 ? [codecs.map((c) => CODECS[c].words).join(' or ')] : [];
  const [first = 'pcm24'] = sounds;
  const heard = sound === 'alone' ? ['WAV'] : sound === 'beside' ? ['WAV beside it'] : [SOUND_WORDS[first]];
  return [words, ...coded, ...heard].join(' \u00b7 ');
}
