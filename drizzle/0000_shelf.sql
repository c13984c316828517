CREATE TABLE `builds` (
	`id` text PRIMARY KEY NOT NULL,
	`layout_id` text NOT NULL,
	`revision` integer NOT NULL,
	`name` text NOT NULL,
	`size` integer NOT NULL,
	`state` text NOT NULL,
	`failure` text,
	`report` text,
	`digest_state` text DEFAULT 'none' NOT NULL,
	`digest` text,
	`started_at` text NOT NULL,
	`ended_at` text
);
--> statement-breakpoint
CREATE INDEX `builds_of_layout` ON `builds` (`layout_id`);--> statement-breakpoint
CREATE TABLE `layouts` (
	`id` text PRIMARY KEY NOT NULL,
	`head` integer NOT NULL,
	`created_at` text NOT NULL,
	`changed_at` text NOT NULL,
	`put_away_at` text
);
--> statement-breakpoint
CREATE TABLE `revisions` (
	`layout_id` text NOT NULL,
	`number` integer NOT NULL,
	`parent` integer,
	`redo` integer,
	`note` text NOT NULL,
	`document` text NOT NULL,
	`saved_at` text NOT NULL,
	PRIMARY KEY(`layout_id`, `number`),
	FOREIGN KEY (`layout_id`) REFERENCES `layouts`(`id`) ON UPDATE no action ON DELETE no action
);
