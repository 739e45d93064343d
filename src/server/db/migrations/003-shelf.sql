-- Boards and part kinds the user has brought in, beside those that ship with the product.
create table shelf (
  kind text not null check (kind in ('boards', 'parts')),
  id text not null,
  version integer not null,
  item jsonb not null,
  at timestamptz not null default now(),
  primary key (kind, id)
);
