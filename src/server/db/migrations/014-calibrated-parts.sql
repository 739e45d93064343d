-- Which part a calibration is of, so that it goes along when the part does.
alter table calibrations add column part_kind text;
alter table calibrations add column channel text;
alter table calibrations add column rom text;
create index calibrations_part on calibrations (part_kind, channel);
