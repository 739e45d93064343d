-- True for a reading that bears a time after the moment it was looked at: the clock of this machine was ahead when it came.
alter table readings add column ahead boolean;
