CREATE TABLE `motors` (
	`id` text PRIMARY KEY NOT NULL,
	`words` text NOT NULL,
	`figures` text NOT NULL
);
