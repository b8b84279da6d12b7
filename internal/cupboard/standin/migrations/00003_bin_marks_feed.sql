-- +goose Up
alter table standin.things
  add closed     jsonb,       -- the mark that closes it
  add binned_at  timestamptz, -- of what was put into the bin, not of what lies in it
  add binned_by  text,
  add bin_until  timestamptz,
  add check ((binned_at is null) = (bin_until is null));
create index on standin.things (bin_until) where bin_until is not null;
create index on standin.things (owner) where parent is null;
create index on standin.things using gin (grants);

-- A key's answer is known after its thing has ended, too.
alter table standin.answers drop constraint answers_thing_fkey, add account text not null default '';

-- What changed, in the order of the transactions that changed it: one that is
-- still under way may have a lower number than one that has ended, so nothing is
-- told that isn't older than all of those.
create table standin.feed (
  xid   xid8 not null default pg_current_xact_id(),
  n     bigint generated always as identity,
  thing uuid not null,
  above uuid[] not null,
  at    timestamptz not null,
  primary key (xid, n)
);
create index on standin.feed (at);
create table standin.feed_start (
  id   integer primary key default 1 check (id = 1),
  xid  xid8 not null,
  n    bigint not null
);
insert into standin.feed_start (xid, n) values ('0', 0);

-- +goose StatementBegin
create function standin.tell() returns trigger language plpgsql as $$
begin
  if tg_op = 'DELETE' then
    insert into standin.feed (thing, above, at) values (old.id, old.above, clock_timestamp());
  elsif tg_op = 'UPDATE' and old.above is distinct from new.above then
    insert into standin.feed (thing, above, at) values (new.id, array(select distinct unnest(old.above || new.above)), clock_timestamp());
  else
    insert into standin.feed (thing, above, at) values (new.id, new.above, clock_timestamp());
  end if;
  return null;
end $$;
-- +goose StatementEnd
create trigger tell after insert or update or delete on standin.things for each row execute function standin.tell();
