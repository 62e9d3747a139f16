-- Whether a person wrote the title. Null for documents filed before: it is compared with the pattern of their type.
alter table document add column title_said boolean;
