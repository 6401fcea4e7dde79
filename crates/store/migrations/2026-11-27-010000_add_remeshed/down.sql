ALTER TABLE print_meshes DROP COLUMN remeshed;
