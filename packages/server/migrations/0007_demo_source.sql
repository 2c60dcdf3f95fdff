UPDATE "tables" SET "source" = 'demo' WHERE "id" <= 3 AND "name" IN ('Found items', 'Stops', 'Claims') AND "source" IS NULL;
