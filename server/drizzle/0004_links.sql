CREATE TABLE `links` (
	`rig_id` text NOT NULL,
	`build_id` text NOT NULL,
	`boards` text NOT NULL,
	PRIMARY KEY(`rig_id`, `build_id`)
);
