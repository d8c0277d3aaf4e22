-- The register of street trees of the borough of Harrowmere, as its database describes it.
-- All of it is invented.
\connect register

CREATE TYPE tree_condition AS ENUM ('E', 'G', 'F', 'P', 'D', 'X');

CREATE TABLE public.site (
    site_code  varchar(8) PRIMARY KEY CHECK (site_code ~ '^W[0-9]{2}-[A-Z]{4}$'),
    site_name  varchar(60) NOT NULL,
    ward       smallint NOT NULL CHECK (ward BETWEEN 1 AND 12)
);

CREATE TABLE public.tree (
    tree_id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    tag_no        varchar(10) NOT NULL UNIQUE CHECK (tag_no ~ '^HT-[0-9]{7}$'),
    site_code     varchar(8) NOT NULL REFERENCES public.site (site_code),
    position_no   integer CHECK (position_no > 0 AND position_no < 1000),
    species       varchar(7) NOT NULL,
    planted_on    date CHECK (planted_on >= DATE '1850-01-01'),
    girth_cm      numeric(5, 1) CHECK (girth_cm BETWEEN 1 AND 1500),
    height_m      numeric(3, 1),
    stems         smallint DEFAULT 1 CHECK (stems IS NULL OR stems BETWEEN 1 AND 40),
    condition     tree_condition NOT NULL,
    inspected_on  date NOT NULL,
    inspector_email text,
    protected     boolean NOT NULL DEFAULT false,
    removal_due   date,
    notes         varchar(200),
    canopy_m2     numeric(7, 2) GENERATED ALWAYS AS (girth_cm * height_m / 40) STORED,
    outline       geometry,
    changed_at    timestamptz NOT NULL DEFAULT now(),
    UNIQUE (site_code, position_no),
    CONSTRAINT removal_after_inspection CHECK (removal_due >= inspected_on)
);

COMMENT ON TABLE public.tree IS 'One row for each tree in a street or park.';
COMMENT ON COLUMN public.tree.tag_no IS 'The number on the aluminium tag.';
COMMENT ON COLUMN public.tree.girth_cm IS 'Round the trunk, 1.3 m above the ground.';

CREATE INDEX tree_by_site ON public.tree (site_code);
GRANT SELECT ON public.tree TO surveyors;
