/** Tables of the SQLite file. Times are ISO 8601 texts in UTC. */
import { BUILD_STATES, DIGEST_STATES } from '../contract/builds';
import { index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** A layout on the shelf; what it says is in its revisions, `head` is the one in force. */
export const layouts = sqliteTable('layouts', {
  id: text('id').primaryKey(),
  head: integer('head').notNull(),
  createdAt: text('created_at').notNull(),
  changedAt: text('changed_at').notNull(),
  /** Set when put away; the revisions stay. */
  putAwayAt: text('put_away_at'),
});

/**
 * Every finished change. Documents are never overwritten: undo and redo only move the head,
 * and `redo` remembers the way forward from each revision.
 */
export const revisions = sqliteTable(
  'revisions',
  {
    layoutId: text('layout_id')
      .notNull()
      .references(() => layouts.id),
    number: integer('number').notNull(),
    parent: integer('parent'),
    redo: integer('redo'),
    note: text('note').notNull(),
    /** A name that a person gave it, to find it again. */
    name: text('name'),
    document: text('document').notNull(),
    savedAt: text('saved_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.layoutId, table.number] })],
);

/** A build job and its result. */
export const builds = sqliteTable(
  'builds',
  {
    id: text('id').primaryKey(),
    layoutId: text('layout_id').notNull(),
    revision: integer('revision').notNull(),
    name: text('name').notNull(),
    size: integer('size').notNull(),
    state: text('state', { enum: BUILD_STATES }).notNull(),
    /** Why it failed: a code and a sentence, as JSON. */
    failure: text('failure'),
    /** The read-back report, as JSON. */
    report: text('report'),
    digestState: text('digest_state', { enum: DIGEST_STATES }).notNull().default('none'),
    digest: text('digest'),
    startedAt: text('started_at').notNull(),
    endedAt: text('ended_at'),
  },
  (table) => [index('builds_of_layout').on(table.layoutId)],
);

/**
 * Steps of work that were taken, by the id that the browser gave them: one that is sent again,
 * because its answer was lost, is not made twice.
 */
export const steps = sqliteTable(
  'steps',
  {
    id: text('id').primaryKey(),
    layoutId: text('layout_id')
      .notNull()
      .references(() => layouts.id),
    takenAt: text('taken_at').notNull(),
  },
  (table) => [index('steps_of_layout').on(table.layoutId)],
);

/** What a person set, and what the database says of itself, by name. */
export const settings = sqliteTable('settings', {
  name: text('name').primaryKey(),
  value: text('value').notNull(),
});
