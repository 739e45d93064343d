-- What a meter showed while a node was wired: the last reading of each place counts, all of them are kept.
create table measurements (
  id bigint generated always as identity primary key,
  node_id uuid not null references nodes (id) on delete cascade,
  place text not null,
  value double precision not null,
  unit text not null check (unit in ('V', 'Ω')),
  ok boolean not null,
  who text not null,
  at timestamptz not null default now()
);
create index measurements_by_node on measurements (node_id, place, id desc);
