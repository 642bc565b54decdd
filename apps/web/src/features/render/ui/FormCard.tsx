import { ActionIcon, Button, ColorInput, Group, NumberInput, Popover, Select, Switch, TextInput } from '@mantine/core';
import { IconTrash } from '@tabler/icons-react';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { OutputsReply } from '@thawline/contract';
import { FIELD_ORDERS, LOW_PASSES, type LowPass } from '@thawline/core/fields';
import { PAINTS, paintHex, paintOf } from '@thawline/core/picture';
import { formatRate, parseRate } from '@thawline/core/time';
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
  filmRate,
  formFields,
  gradesOf,
  qualityRange,
  qualityWords,
  type RenderForm,
  SOUND_WORDS,
  type SoundCodec,
  settledForm,
  type Timeline,
} from '@thawline/project';
import { useState } from 'react';
import { call } from '../../../api/client.js';
import { tellError } from '../../../api/notices.js';
import { RateField } from '../../../shared/rates/RateField.js';
import { TWO_FIELDS } from '../../../shared/rates/rates.js';
import { useRenderWishes } from '../../../shared/state/renderWishes.js';
import classes from './render.module.css';

/** What the file is to be. */
export function FormCard({ timeline, outputs }: { timeline: Timeline; outputs: OutputsReply | undefined }) {
  const asked = useRenderWishes();
  const form = settledForm(asked.form);
  const { change } = asked;
  const facts = FORMS[form.kind];
  const { codec } = form;
  const quality = qualityRange(form);
  const depths = depthsOf(form);
  const chromas = chromasOf(form);
  const grades = gradesOf(form);
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
      {form.kind !== 'wav' && <Ground bears={bearsAlpha(form)} />}
      {facts.lossless && facts.sound !== 'alone' && (
        <p className={`quiet ${classes.words}`}>Lossless: every picture comes back exactly.</p>
      )}
      {!quality && !facts.lossless && (
        <p className={`quiet ${classes.words}`}>
          {codingWords(form)}, {chromaWords(form.chroma)}
          {depths.length === 1 && `, ${form.depth} bit`}: {qualityWords(codec, form.quality)}.
        </p>
      )}
      <Group gap="md">
        {depths.length > 1 && (
          <Switch
            size="xs"
            label="10 bit"
            checked={form.depth === 10}
            onChange={(e) => change({ depth: e.currentTarget.checked ? 10 : 8 })}
          />
        )}
        {facts.sound !== 'alone' && (
          <Switch
            size="xs"
            label="Sound"
            checked={form.sound !== 'off'}
            onChange={(e) => change({ sound: e.currentTarget.checked ? 'stereo' : 'off' })}
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
      {facts.fields && <Fields timeline={timeline} />}
      {(facts.sound === 'alone' || form.sound !== 'off') && <SoundPeak />}
      {form.kind !== 'wav' && !formFields(form, timeline)?.pulldown && <OtherRate timeline={timeline} />}
      <TextInput
        label="Name"
        size="xs"
        placeholder="made of the timeline's"
        value={asked.name}
        error={badName && 'Leave out / \\ : * ? " < > | and a dot in front.'}
        onChange={(e) => asked.set({ name: e.currentTarget.value })}
        rightSection={facts.ending && <span className="quiet">.{facts.ending}</span>}
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
};

function kindWords(kind: FormKind): string {
  const { words, codecs, sound, sounds } = FORMS[kind];
  const coded = codecs.length > 0 ? [codecs.map((c) => CODECS[c].words).join(' or ')] : [];
  const [first = 'pcm24'] = sounds;
  const heard = sound === 'alone' ? ['WAV'] : sound === 'beside' ? ['WAV beside it'] : [SOUND_WORDS[first]];
  return [words, ...coded, ...heard].join(' \u00b7 ');
}

/** Colours that are named for what is seen where nothing is; another one is picked. */
const GROUNDS = ['black', 'grey', 'white'].map((name) => ({ label: name, value: paintHex(PAINTS[name] ?? [0, 0, 0]) }));
const [TRANSPARENT, OTHER] = ['nothing', 'other'] as const;
/** What a colour of one's own begins with. */
const OTHER_FIRST = '#3a6ea5';

/** What stands where no picture is, and behind what is seen through: a colour, or nothing where the form has alpha. */
function Ground({ bears }: { bears: boolean }) {
  const { form, change } = useRenderWishes();
  const [typed, setTyped] = useState<string>(form.over);
  const named = form.over === TRANSPARENT || GROUNDS.some((g) => g.value === form.over);
  return (
    <div className={classes.formPair}>
      <Select
        label="Where nothing is"
        size="xs"
        data={[
          ...GROUNDS,
          { value: OTHER, label: 'another colour' },
          { value: TRANSPARENT, label: bears ? 'transparent' : 'transparent (not in this form)', disabled: !bears },
        ]}
        value={named ? form.over : OTHER}
        allowDeselect={false}
        onChange={(choice) => {
          const over = choice === OTHER ? OTHER_FIRST : choice;
          if (over) change({ over });
          setTyped(over ?? '');
        }}
      />
      {!named && (
        <ColorInput
          label="Colour there"
          size="xs"
          format="hex"
          value={typed}
          onChange={(text) => {
            setTyped(text);
            const paint = paintOf(text);
            if (paint) change({ over: paintHex(paint) });
          }}
        />
      )}
    </div>
  );
}

/** What frames can hold; empty: as the timeline's do. */
function fieldChoices(timeline: Timeline): { value: string; label: string }[] {
  const film = filmRate(timeline);
  return [
    ...(timeline.fields
      ? [
          { value: '', label: 'as the timeline' },
          { value: 'whole', label: 'whole pictures, of first fields' },
        ]
      : [{ value: '', label: 'whole pictures' }]),
    ...TWO_FIELDS,
    ...(film ? FIELD_ORDERS.map((order) => ({ value: `film ${order}`, label: `film by 2:3, ${order} first` })) : []),
  ];
}

/** The choice that a form has. */
function chosenFields({ fields }: RenderForm, timeline: Timeline): string {
  if (fields === null || (fields === 'whole' && !timeline.fields)) return '';
  if (fields === 'whole') return fields;
  return fields.pulldown ? `film ${fields.order}` : fields.order;
}

/** What a choice asks of the form. */
function askedFields(choice: string, lowPass: LowPass): RenderForm['fields'] {
  const [order = '', film] = choice.split(' ').reverse();
  if (order === 'top' || order === 'bottom') return { order, lowPass, pulldown: film !== undefined };
  return choice === 'whole' ? choice : null;
}

/** What each strength leaves of detail that changes from line to line. */
const LOW_PASS_WORDS: Record<LowPass, string> = {
  off: 'off: fine lines may flicker',
  light: 'light: half of the finest detail stays',
  strong: 'strong: none of the finest detail stays',
};

/** Whether frames hold two fields, and what is done against fine lines that flicker in them. */
function Fields({ timeline }: { timeline: Timeline }) {
  const { form, change } = useRenderWishes();
  const fields = formFields(form, timeline);
  return (
    <div className={classes.formLine}>
      <Select
        label="Frames hold"
        size="xs"
        comboboxProps={{ width: 'max-content', position: 'bottom-start' }}
        data={fieldChoices(timeline)}
        value={chosenFields(form, timeline)}
        allowDeselect={false}
        onChange={(choice) => {
          const wanted = askedFields(choice ?? '', fields?.lowPass ?? 'off');
          // Film by 2:3 has a rate of its own.
          change({ fields: wanted, ...(wanted && wanted !== 'whole' && wanted.pulldown ? { rate: null } : {}) });
        }}
      />
      {fields && (
        <Select
          label="Low-pass, line to line"
          size="xs"
          data={LOW_PASSES.map((value) => ({ value, label: LOW_PASS_WORDS[value] }))}
          value={fields.lowPass}
          allowDeselect={false}
          onChange={(lowPass) => lowPass && change({ fields: { ...fields, lowPass: lowPass as LowPass } })}
        />
      )}
    </div>
  );
}

/** What most take without a word, in dBTP. */
const USUAL_PEAK = -1;

/** The true peak that the file's sound is brought to; what coding adds is found by trial. */
function SoundPeak() {
  const { form, change } = useRenderWishes();
  return (
    <div className={classes.other}>
      <Switch
        size="xs"
        label="Bring its sound to a peak"
        checked={form.peak !== null}
        onChange={(e) => change({ peak: e.currentTarget.checked ? USUAL_PEAK : null })}
      />
      {form.peak !== null && (
        <NumberInput
          label="True peak in the file"
          size="xs"
          classNames={{ input: 'number' }}
          suffix=" dBTP"
          min={-40}
          max={0}
          step={0.5}
          decimalScale={1}
          value={form.peak}
          onChange={(n) => typeof n === 'number' && n >= -40 && n <= 0 && change({ peak: n })}
        />
      )}
    </div>
  );
}

/** Frames of another rate than the timeline's: asked for by name, with its price drawn beneath the form. */
function OtherRate({ timeline }: { timeline: Timeline }) {
  const { form, change } = useRenderWishes();
  const [typed, setTyped] = useState(form.rate ? formatRate(form.rate) : '');
  const [open, setOpen] = useState(form.rate !== null);
  return (
    <div>
      <Switch
        size="xs"
        label="At another rate than the timeline's"
        checked={open}
        onChange={(e) => {
          const on = e.currentTarget.checked;
          setOpen(on);
          change({ rate: on ? parseRate(typed) : null });
        }}
      />
      {open && (
        <div className={classes.other}>
          <RateField
            label="Rate of the render"
            what="frames"
            typed={typed}
            hint={`the timeline runs at ${formatRate(timeline.rate)}`}
            onType={(text) => {
              setTyped(text);
              change({ rate: parseRate(text) });
            }}
          />
          <Select
            label="Frames between the timeline's"
            size="xs"
            data={[
              { value: 'nearest', label: 'hold or skip: whole frames only' },
              { value: 'blend', label: 'blend two frames' },
              { value: 'motion', label: 'made by motion' },
            ]}
            value={form.way}
            allowDeselect={false}
            onChange={(way) => way && change({ way: way as 'nearest' | 'blend' | 'motion' })}
          />
        </div>
      )}
    </div>
  );
}

/** Forms under names that people gave them. */
function Presets() {
  const { form, set } = useRenderWishes();
  const client = useQueryClient();
  const presets = useQuery({ queryKey: ['presets'], queryFn: () => call('presets') }).data ?? [];
  const [name, setName] = useState('');
  const [naming, setNaming] = useState(false);
  const current = presets.find((p) => JSON.stringify(settledForm(p.form)) === JSON.stringify(settledForm(form)));
  const take = (work: Promise<typeof presets>): Promise<void> =>
    work.then((now) => void client.setQueryData(['presets'], now)).catch(tellError);
  return (
    <Group gap={6} align="end" wrap="nowrap">
      <Select
        label="Kept forms"
        size="xs"
        flex={1}
        placeholder={presets.length === 0 ? 'none yet: set a form, then keep it' : 'choose one'}
        data={presets.map((p) => ({ value: p.id, label: p.name }))}
        value={current?.id ?? null}
        onChange={(id) => {
          const found = presets.find((p) => p.id === id);
          if (found) set({ form: found.form });
        }}
      />
      {current && (
        <ActionIcon
          variant="default"
          size={30}
          aria-label={`Forget ${current.name}`}
          onClick={() => void take(call('removePreset', { parameters: { preset: current.id } }))}
        >
          <IconTrash size={15} />
        </ActionIcon>
      )}
      <Popover position="bottom-end" shadow="md" trapFocus opened={naming} onChange={setNaming}>
        <Popover.Target>
          <Button variant="default" size="xs" onClick={() => setNaming(!naming)}>
            Keep
          </Button>
        </Popover.Target>
        <Popover.Dropdown>
          <form
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim()) void take(call('savePreset', { body: { name: name.trim(), form: settledForm(form) } }));
              setName('');
              setNaming(false);
            }}
          >
            <Group gap={6} align="end">
              <TextInput
                label="Keep this form as"
                size="xs"
                maxLength={60}
                value={name}
                onChange={(e) => setName(e.currentTarget.value)}
              />
              <Button size="xs" type="submit" disabled={!name.trim()}>
                Keep form
              </Button>
            </Group>
          </form>
        </Popover.Dropdown>
      </Popover>
    </Group>
  );
}
