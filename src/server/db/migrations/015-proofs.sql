-- Contract tests: what was found, line by line. `nodes` null: all of the shop.
create table proofs (
  id bigint generated always as identity primary key,
  began_at timestamptz not null,
  ended_at timestamptz not null default now(),
  by_clock boolean not null,
  node_id uuid references nodes (id) on delete cascade,
  report jsonb not null
);
create index proofs_by_time on proofs (node_id, began_at desc);
-- What the product has announced in the form of a user's template, so that it can be cleared when the thing goes.
create table announced (
  topic text primary key,
  template_id text not null,
  node_id uuid not null,
  payload text not null
);
