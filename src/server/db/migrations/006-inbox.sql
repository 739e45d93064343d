-- Readings as they come in: one row for all of a signal's in a batch, in order of arrival. It has next to nothing to index, so that storing
-- keeps up with what the broker passes; the rows are spread into `readings` when nothing else is to be done, or when somebody asks for them.
create table readings_inbox (
  id bigint generated always as identity primary key,
  node_id uuid not null,
  signal_id text not null,
  ms double precision[] not null,
  numbers double precision[] not null,
  words text[]
);
