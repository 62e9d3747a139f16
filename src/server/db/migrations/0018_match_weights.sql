-- How much each kind of evidence weighs, as learnt from what people decided. The highest version that is in use counts; none is the starting ones.
create table match_weights (
  version int primary key,
  weights jsonb not null,
  papers int not null,
  -- Mean surprise at papers that nothing was learnt from, before and after.
  before real not null,
  after real not null,
  is_used boolean not null,
  made_at timestamp(3) with time zone not null,
  made_by text not null
);
