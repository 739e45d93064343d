-- A retired node keeps its history and gives its short name free: until it is brought back its slug is its id.
alter table nodes add column retired_at timestamptz;
