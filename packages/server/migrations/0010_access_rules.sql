CREATE TABLE "access_rules" (
	"only" boolean PRIMARY KEY DEFAULT true NOT NULL,
	"rules" jsonb NOT NULL
);
