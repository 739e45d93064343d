-- What was heard of each sender, burst by burst.
create table bursts (
  sender_id text not null,
  at timestamptz not null,
  by_gateway text not null,
  content text not null
);
create index bursts_by_sender on bursts (sender_id, at desc);
-- Nodes and senders share one list of short names: whoever takes one that is had is refused here, whatever took it.
create table slugs (
  slug text primary key,
  owner text not null
);
insert into slugs select slug, id::text from nodes;
create function node_slug() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' or tg_op = 'UPDATE' then
    delete from slugs where owner = old.id::text;
  end if;
  if tg_op <> 'DELETE' then
    insert into slugs values (new.slug, new.id::text);
    return new;
  end if;
  return old;
end $$;
create trigger node_slug after insert or update of slug or delete on nodes for each row execute function node_slug();
create function sender_slugs() returns trigger language plpgsql as $$
begin
  delete from slugs where owner like 'sender:%';
  insert into slugs
    select value ->> 'slug', 'sender:' || key from jsonb_each(coalesce(new.document -> 'senders', '{}'::jsonb));
  return new;
end $$;
create trigger sender_slugs after insert or update of document on shop for each row execute function sender_slugs();
