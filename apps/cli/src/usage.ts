export const USAGE = `Thawline from the shell. JSON goes to standard output, progress to standard error.

  thawline probe FILE|FOLDER... [--json|--csv] [--rate R]
                                    what files store and what their timestamps measure; --json prints a line for each,
                                    --rate is what numbered pictures in folders are read at
  thawline check FILE [--json] [--pictures FROM-TO] [--region X,Y,W,H]
                                    held pictures, jumps, cuts, faulty pictures, blends, fields, the true rate; of a part of
                                    the file (TO is not included) or of each picture (in its pixels), where a counter is burnt
                                    in beside it, say
  thawline compare A B [--json]     which pictures of A are shown by B: offset, speed, dropped, repeated, mixed; exit 1 when
                                    the two do not show the same
  thawline align A B [--json]       two recordings of one event by their sound: where B lies and how fast its clock runs,
                                    b = offset + ratio * a; exit 1 when the sounds do not match
  thawline make IN OUT --rate R [--speed S] [--method nearest|blend|motion] [--shutter D]
                [--mix stored|light] [--curve FILE.json] [--threads N] [--json]
                [--fields progressive|one-a-field|one-a-frame|film|measured [--order top|bottom]]
                [--interlaced top|bottom] [--lowpass off|light|strong] [--pulldown 2:3]
                [--over black|grey|white|#rrggbb] [--projection flat|equirectangular] [--from R]
                                    the same moments at another rate, S times as fast (0.25, 25%, 1/4; then without sound);
                                    between two pictures stands the earlier one, a mix, or one made by motion
                                    (in N threads; as many as there are cores if nothing is said);
                                    a blend mixes samples as stored, or in linear light;
                                    a shutter open for D of 360 degrees of a frame averages what it covers;
                                    a curve ties pictures to frames, [{"frame": 0, "picture": 0, "way": "even"}, ...], the ways
                                    on are even, eased or held;
                                    fields are read as whole pictures, each as a picture of its own, the first of each frame, as
                                    film whose pulldown is undone, or each stretch as it is measured: without --rate at the
                                    rate that this gives, in the order that is measured where none is said;
                                    an interlaced OUT (.mp4 or .mkv) has two fields a frame, this one first, each at its own
                                    moment; a low-pass takes out the finest detail from line to line, which flickers in
                                    fields; pulldown spreads film at R (23.976) over fields by 2:3 (29.97, top first if
                                    nothing is said);
                                    pictures keep their depth, chroma, alpha, colours and pixel shape as far as OUT can
                                    bear them, and what it cannot is told; alpha that it cannot bear goes over a colour,
                                    or is refused; pictures of all around (360°) go on over their edges, as the file
                                    says or as --projection does;
                                    IN may be a folder of numbered pictures, read at --from;
                                    OUT ends in .y4m, .mkv (FFV1), .mov (ProRes), .mp4 (H.264) or .webm (VP9), or is
                                    numbered: shot-####.png or .tif, from 0 on
  thawline heldout IN [--json]      hides every second picture, makes it from its neighbours by motion, and compares: what
                                    the material allows
  thawline pan IN [--json] [--rate R]
                                    how the camera moves from picture to picture, and where a point crosses the frame in under
                                    7 s: shown at R, or as the file is timed
  thawline edit IN.otio|IN.edl [--json] [--from R]
                                    an edit's clips with their rates, steps and hitches; --from is what a list (.edl) counts in
  thawline carry IN OUT --rate R [--json] [--from R]
                                    the edit at another rate: each cut at its nearest frame, pictures in real time;
                                    OUT ends in .otio or .edl
  thawline render EDIT.otio OUT [--timeline NAME] [--form FORM] [--rate R [--method nearest|blend|motion]]
                  [--receipt FILE.json] [--json] [--from R]
                                    writes an edit, measures the file against it, and says what differs; FORM is mp4, mov,
                                    webm, mkv, y4m, png, tiff or wav (else what OUT ends in), with what is asked of it behind a colon:
                                    mp4:quality=20,peak=-1,sound=off, mp4:fields=top,lowpass=light, mov:mpeg2,pulldown=2:3,
                                    webm:av1, mp4:hevc,depth=10, mkv:chroma=444, mov:chroma=444,over=nothing (transparent),
                                    mov:grade=proxy, mkv:sound=pcm16, mkv:sound=all (every channel), mkv:chroma=rgb,depth=16,
                                    png:depth=16,first=1001; numbered pictures go into a folder, named by OUT:
                                    shots/thaw-####.png; what is not kept is told before;
                                    a name that is taken gets a number
  thawline receipt FILE --against EDIT.otio [--timeline NAME] [--form FORM] [--rate R] [--json] [--from R]
                                    measures any file against an edit: rate, every timestamp, sound, and which picture each
                                    frame shows
  thawline projects [--json] [--server URL]
                                    the projects of a server that runs, with their ids
  thawline export PROJECT FILE [--media] [--json] [--server URL]
                                    writes a project as one file (a zip with JSON inside): document, history, what was
                                    found; with --media its sources' files, too
  thawline import FILE [--json] [--server URL]
                                    such a file as a new project beside those that are there
  thawline restore [BACKUP] [--data FOLDER] [--project ID] [--json]
                                    lists the backups of a data folder with their projects; with one's name, brings its
                                    projects (or one of them) back beside the present ones. A database that cannot be read
                                    is renamed and kept, and the backup takes its place. FOLDER is the server's THAWLINE_DATA

R is a rate: 25, 23.976, 24000/1001. Exit code: 0 done, 1 failed, 2 wrong call.
`;

/** Every option there is, as it is written; which command takes which stands with the command. */
export const OPTIONS = {
  json: '--json',
  csv: '--csv',
  media: '--media',
  rate: '--rate <rate>',
  method: '--method <method>',
  shutter: '--shutter <degrees>',
  threads: '--threads <count>',
  speed: '--speed <speed>',
  curve: '--curve <file>',
  mix: '--mix <mix>',
  fields: '--fields <way>',
  order: '--order <order>',
  interlaced: '--interlaced <order>',
  lowpass: '--lowpass <strength>',
  over: '--over <colour>',
  projection: '--projection <kind>',
  pulldown: '--pulldown <beat>',
  from: '--from <rate>',
  pictures: '--pictures <range>',
  region: '--region <box>',
  timeline: '--timeline <name>',
  form: '--form <form>',
  receipt: '--receipt <file>',
  against: '--against <edit>',
  data: '--data <folder>',
  project: '--project <id>',
  server: '--server <url>',
} as const;

export type OptionName = keyof typeof OPTIONS;
type Flag = 'json' | 'csv' | 'media';

/** What was said: a flag is there or not, everything else is text. */
export type Values = { readonly [Name in OptionName]?: Name extends Flag ? boolean : string };

/** The call itself is wrong: the usage is printed and the exit code is 2. */
export class WrongCall extends Error {}
