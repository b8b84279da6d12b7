-- +goose Up
create table schoolbook.revision (n bigint not null);
insert into schoolbook.revision values (1);
-- +goose StatementBegin
create function schoolbook.raise() returns trigger language plpgsql as $$
begin
  update schoolbook.revision set n = n + 1;
  return null;
end $$;
-- +goose StatementEnd
create trigger raise after insert or update or delete or truncate on schoolbook.accounts for each statement execute function schoolbook.raise();
