CREATE TABLE `pieces` (
	`run_id` text NOT NULL,
	`no` integer NOT NULL,
	`count` integer NOT NULL,
	`rows` blob NOT NULL,
	`events` text NOT NULL,
	PRIMARY KEY(`run_id`, `no`)
);
--> statement-breakpoint
CREATE TABLE `settings` (
	`name` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `runs` ADD `name` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `head` text;