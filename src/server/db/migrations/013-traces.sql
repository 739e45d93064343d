-- Kept recordings: seconds and values as doubles one after the other, not-a-number where nothing was known.
create table traces (
  id uuid primary key,
  node_id uuid not null references nodes (id) on delete cascade,
  signal_id text not null,
  name text not null,
  unit text not null,
  source text not null,
  at timestamptz not null,
  samples bytea not null,
  marks jsonb not null default '[]',
  kept_at timestamptz not null default now()
);
-- Doubles of a sensor hardly pack, and packing sixteen megabytes takes longer than writing them.
alter table traces alter column samples set storage external;
create index traces_of_signal on traces (node_id, signal_id, at);
