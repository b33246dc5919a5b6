CREATE TABLE `rigs` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`updated_at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `runs` (
	`id` text PRIMARY KEY NOT NULL,
	`rig_id` text NOT NULL,
	`revision` integer NOT NULL,
	`build_id` text NOT NULL,
	`routine_id` text NOT NULL,
	`routine_name` text NOT NULL,
	`board` text NOT NULL,
	`started_at` text NOT NULL,
	`ended_at` text,
	`outcome` text,
	`duration_ms` integer,
	`worst_error` text
);
--> statement-breakpoint
CREATE INDEX `runs_by_rig` ON `runs` (`rig_id`,`started_at`);