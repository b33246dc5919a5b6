ALTER TABLE `rigs` ADD `joints` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `rigs` ADD `routines` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `rigs` ADD `last_good` text;--> statement-breakpoint
UPDATE `rigs` SET
	`joints` = coalesce(json_array_length(`document`, '$.mechanism.joints'), 0),
	`routines` = coalesce(json_array_length(`document`, '$.routines'), 0)
WHERE json_valid(`document`);
