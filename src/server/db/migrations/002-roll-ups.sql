-- Readings in short: kept long after the raw rows are gone. `n` counts numbers, `total` all messages, unknown ones and words too.
create table readings_minute (
  node_id uuid not null references nodes (id) on delete cascade,
  signal_id text not null,
  at timestamptz not null,
  n integer not null,
  total integer not null,
  low double precision,
  mean double precision,
  high double precision,
  primary key (node_id, signal_id, at)
);
create table readings_hour (like readings_minute including all);
alter table readings_hour add foreign key (node_id) references nodes (id) on delete cascade;
-- Rows arrive in order of time: a block-range index finds a span of it and costs next to nothing to keep.
create index readings_by_time on readings using brin (at);

-- How far each roll-up has come.
create table rolled_up (step text primary key, until timestamptz not null);
insert into rolled_up (step, until) values ('minute', '-infinity'), ('hour', '-infinity');

create table settings (name text primary key, value jsonb not null);
