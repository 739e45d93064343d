-- Bringing a node up: what was seen without a number, other units, a remark.
alter table measurements drop constraint measurements_unit_check;
alter table measurements alter column value drop not null;
alter table measurements add constraint measurements_unit_check check (unit in ('V', 'Ω', 'A', 'dBm', ''));
alter table measurements add column remark text not null default '';
-- A trial where a node hangs: what happened meanwhile is added to it; one at a time runs.
create table trials (
  id bigint generated always as identity primary key,
  node_id uuid not null references nodes (id) on delete cascade,
  days double precision not null,
  who text not null,
  started_at timestamptz not null default now(),
  ended_at timestamptz,
  happened jsonb not null default '{}'
);
create unique index trials_running on trials (node_id) where ended_at is null;
-- Boards by the hardware address that was read from them: those that carry a node, and spare ones.
create table boards (
  hardware text primary key check (hardware ~ '^[0-9a-f]{12}$'),
  chip text not null,
  node_id uuid references nodes (id) on delete set null,
  image text,
  image_version text,
  address text,
  remark text not null default '',
  seen_at timestamptz not null default now()
);
