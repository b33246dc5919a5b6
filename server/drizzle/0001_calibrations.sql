CREATE TABLE `calibrations` (
	`id` text PRIMARY KEY NOT NULL,
	`rig_id` text NOT NULL,
	`build_id` text NOT NULL,
	`subject` text NOT NULL,
	`taken_at` text NOT NULL,
	`note` text NOT NULL,
	`fact` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `calibrations_by_build` ON `calibrations` (`rig_id`,`build_id`,`taken_at`);