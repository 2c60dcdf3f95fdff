ALTER TABLE "rows" DROP CONSTRAINT "rows_table_id_tables_id_fk";
--> statement-breakpoint
ALTER TABLE "rows" ALTER COLUMN "cells" SET DATA TYPE text;