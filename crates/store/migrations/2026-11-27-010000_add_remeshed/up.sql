-- A print mesh whose triangles are others than those of its design: it was found by its surface.
ALTER TABLE print_meshes ADD COLUMN remeshed INTEGER NOT NULL DEFAULT 0;
