-- Readings as they come in: one row for all of a signal's in a batch, in order of arrival. It has next to nothing to index, so that storing
-- keeps up with what the broker passes; the rows are spread into `readings` when nothing else is to be done, or when somebody asks for them.
create table readings_inbox (
  id bigint generated always as identity primary key,
  node_id uuid not null,
  signal_id text not null,
  -- Numbers separated by commas, an empty place for none: taken in as they are, and read only when they are spread.
  places integer not null,
  ms text not null,
  numbers text not null,
  words text[]
);
