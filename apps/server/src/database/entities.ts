import { Column, Entity, Index, JoinColumn, ManyToOne, PrimaryColumn, PrimaryGeneratedColumn, type Relation } from 'typeorm';

/** Entities stay in this folder: everyone else gets plain values from the repositories beside it. */

@Entity('project')
export class ProjectRow {
  @PrimaryColumn('text') id!: string;
  @Column('text') name!: string;
  @Column('integer') version!: number;
  /** The document as it stands, JSON. */
  @Column('text') document!: string;
  @Column('text') createdAt!: string;
  @Column('text') changedAt!: string;
  /** Format of the document and of its history (DOCUMENT_FORMAT of packages/project). */
  @Column('integer', { default: 1 }) format!: number;
  /** When it was put into the bin; null for a project that is in use. */
  @Column('text', { nullable: true }) deletedAt!: string | null;
}

@Entity('revision')
@Index('revision_by_project', ['projectId', 'number'], { unique: true })
export class RevisionRow {
  @PrimaryGeneratedColumn() id!: number;
  @Column('text') projectId!: string;
  @ManyToOne(() => ProjectRow, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'projectId' })
  project?: Relation<ProjectRow>;
  @Column('integer') number!: number;
  @Column('text') label!: string;
  @Column('text') command!: string;
  @Column('text') forward!: string;
  @Column('text') backward!: string;
  @Column('boolean') undone!: boolean;
  /** Changes that a person made at one go come with one batch and are one step. */
  @Column('text', { nullable: true }) batch!: string | null;
  /** The browser window that made the change; null when the request did not name one. */
  @Column('text', { nullable: true }) client!: string | null;
  @Column('text') at!: string;
}

/** A change that was made for a request with an id of its own: sent again, it is answered from here and not made twice. */
@Entity('request')
export class RequestRow {
  @PrimaryColumn('text') projectId!: string;
  @PrimaryColumn('text') id!: string;
  @ManyToOne(() => ProjectRow, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'projectId' })
  project?: Relation<ProjectRow>;
  /** The version that the change led to. */
  @Column('integer') version!: number;
  /** The change's patches, JSON. */
  @Column('text') patches!: string;
}

@Entity('media')
export class MediaRow {
  @PrimaryColumn('text') id!: string;
  @Column('text') name!: string;
  /** Of the original, under the data folder's media/ID/. */
  @Column('text') fileName!: string;
  @Column('integer') bytes!: number;
  /** packages/media's Probe, JSON. */
  @Column('text') probe!: string;
  /** Path of the original when it is used in place; null for a copy in the data folder. */
  @Column('text', { nullable: true }) path!: string | null;
  /** Milliseconds since 1970, of the file in place. */
  @Column('real', { nullable: true }) modifiedMs!: number | null;
  /** Tells contents apart without reading all of them. */
  @Column('text', { nullable: true }) fingerprint!: string | null;
  /** Ending and names of a numbered series' pictures in their order, JSON; null for a single file. */
  @Column('text', { nullable: true }) series!: string | null;
  @Column('text') createdAt!: string;
}

@Entity('job')
@Index('job_by_project', ['projectId', 'createdAt'])
export class JobRow {
  @PrimaryColumn('text') id!: string;
  /** Rises with every job: the order of the queue. */
  @Column('integer') order!: number;
  @Column('text') projectId!: string;
  @ManyToOne(() => ProjectRow, { onDelete: 'CASCADE' })
  @JoinColumn({ name: 'projectId' })
  project?: Relation<ProjectRow>;
  @Column('text') kind!: string;
  @Column('text') state!: string;
  @Column('text') label!: string;
  @Column('text') subject!: string;
  /** What is needed to start it again after a restart, JSON. */
  @Column('text') params!: string;
  @Column('integer') done!: number;
  @Column('integer', { nullable: true }) total!: number | null;
  @Column('text') phase!: string;
  @Column('text', { nullable: true }) result!: string | null;
  @Column('text', { nullable: true }) errorCode!: string | null;
  @Column('text', { nullable: true }) errorMessage!: string | null;
  @Column('text') createdAt!: string;
  @Column('text', { nullable: true }) startedAt!: string | null;
  @Column('text', { nullable: true }) endedAt!: string | null;
}

/** What holds for the whole server, by name; JSON. */
@Entity('setting')
export class SettingRow {
  @PrimaryColumn('text') name!: string;
  @Column('text') value!: string;
}

export const ENTITIES = [ProjectRow, RevisionRow, RequestRow, MediaRow, JobRow, SettingRow];
