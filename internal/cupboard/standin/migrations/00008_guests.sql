-- +goose Up
-- A thing that lies in a folder of somebody else's. What others put into a folder is counted among
-- those alone, however many of its owner's own things there are.
-- +goose StatementBegin
create function standin.among(owner text, above uuid[]) returns boolean stable language sql as $$
  select exists (select 1 from standin.things a where a.id = any($2) and a.owner <> $1)
$$;
-- +goose StatementEnd
alter table standin.things add guest boolean not null default false;
alter table standin.things disable trigger tell;
update standin.things set guest = true where standin.among(owner, above);
alter table standin.things enable trigger tell;
create index on standin.things using gin (above) where guest;
-- +goose StatementBegin
create function standin.mark_guest() returns trigger language plpgsql as $$
begin
  new.guest := standin.among(new.owner, new.above);
  return new;
end $$;
-- +goose StatementEnd
create trigger mark_guest before insert or update of above on standin.things for each row execute function standin.mark_guest();
