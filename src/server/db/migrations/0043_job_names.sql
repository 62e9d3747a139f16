-- Jobs that wait while the program is replaced go on under the names of today.
do $$ begin
  if to_regclass('graphile_worker._private_tasks') is not null then
    update graphile_worker._private_tasks t set identifier = n.now
      from (values ('look', 'analysePages'), ('hurry', 'finishWithoutOcr'), ('print', 'fingerprint'), ('handsFree', 'fileAutomatically'),
        ('checkHandsFree', 'checkAutomaticFiling'), ('drawPlan', 'computeMovePlan'), ('carryPlan', 'executeMovePlan'), ('prove', 'verifyStored'),
        ('pointAnew', 'rewritePointers'), ('clearLooks', 'clearAnalyses')) n (was, now)
      where t.identifier = n.was and not exists (select 1 from graphile_worker._private_tasks o where o.identifier = n.now);
  end if;
end $$;
