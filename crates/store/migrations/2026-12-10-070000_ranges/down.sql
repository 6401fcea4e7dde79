PRAGMA writable_schema = ON;

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "arrivals.mark" CHECK (mark BETWEEN 0 AND 1000000000000),
    CONSTRAINT "arrivals.cost_minor" CHECK (cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "arrivals.arrived_at_ms" CHECK (arrived_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "arrivals.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'arrivals';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "attendance.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "attendance.load_minutes" CHECK (load_minutes BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "attendance.unload_minutes" CHECK (unload_minutes BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "attendance.look_minutes" CHECK (look_minutes BETWEEN 0.0 AND 1000000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'attendance';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "batch_steps.seq" CHECK (seq BETWEEN 0 AND 1000000000000),
    CONSTRAINT "batch_steps.minutes" CHECK (minutes BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "batch_steps.began_at_ms" CHECK (began_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "batch_steps.ends_at_ms" CHECK (ends_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'batch_steps';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "batches.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "batches.off_at_ms" CHECK (off_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "batches.counted" CHECK (counted BETWEEN 0 AND 1000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'batches';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "bench_changes.changed_at_ms" CHECK (changed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'bench_changes';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "bottles.size_ml" CHECK (size_ml BETWEEN 0.0 AND 100000.0),
    CONSTRAINT "bottles.price_minor" CHECK (price_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "bottles.came_at_ms" CHECK (came_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "bottles.best_before_ms" CHECK (best_before_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "bottles.empty_g" CHECK (empty_g BETWEEN -1000000000000.0 AND 1000000000000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'bottles';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "bundles.name" CHECK (length(name) <= 2000),
    CONSTRAINT "bundles.price_minor" CHECK (price_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "bundles.bought_at_ms" CHECK (bought_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'bundles';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "choices.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "choices.name" CHECK (length(name) <= 2000),
    CONSTRAINT "choices.may_go_without" CHECK (may_go_without BETWEEN 0 AND 1000000000000),
    CONSTRAINT "choices.position" CHECK (position BETWEEN -1000000000 AND 1000000000000),
    CONSTRAINT "choices.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'choices';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "concerns_put_aside.put_aside_at_ms" CHECK (put_aside_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'concerns_put_aside';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "copies.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "copies.mark" CHECK (mark BETWEEN 0 AND 1000000000000),
    CONSTRAINT "copies.changed_at_ms" CHECK (changed_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "copies.failed_layer" CHECK (failed_layer BETWEEN 0 AND 1000000),
    CONSTRAINT "copies.mend_minutes" CHECK (mend_minutes BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "copies.missing" CHECK (missing BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'copies';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "cures.minutes" CHECK (minutes BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "cures.felt_at_ms" CHECK (felt_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'cures';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "dismissals.dismissed_at_ms" CHECK (dismissed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'dismissals';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "exposure_tests.exposure_s" CHECK (exposure_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "exposure_tests.room_c" CHECK (room_c BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "exposure_tests.tested_at_ms" CHECK (tested_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'exposure_tests';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "fine_zones.x_mm" CHECK (x_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "fine_zones.y_mm" CHECK (y_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "fine_zones.z_mm" CHECK (z_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "fine_zones.radius_mm" CHECK (radius_mm BETWEEN -100000.0 AND 100000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'fine_zones';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "grades.grade" CHECK (grade BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'grades';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "hand_spells.began_at_ms" CHECK (began_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "hand_spells.minutes" CHECK (minutes BETWEEN 0.0 AND 1000000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'hand_spells';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "hollow_facts.unit_mm" CHECK (unit_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "hollow_facts.wall_um" CHECK (wall_um BETWEEN 1 AND 1000000),
    CONSTRAINT "hollow_facts.measure_version" CHECK (measure_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "hollow_facts.saved_mm3" CHECK (saved_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "hollow_facts.uncertain_mm3" CHECK (uncertain_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "hollow_facts.pitch_mm" CHECK (pitch_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "hollow_facts.pockets" CHECK (pockets BETWEEN 0 AND 1000000000000),
    CONSTRAINT "hollow_facts.drains_needed" CHECK (drains_needed BETWEEN 0 AND 1000000000000),
    CONSTRAINT "hollow_facts.trapped_mm3" CHECK (trapped_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "hollow_facts.left_hanging_mm3" CHECK (left_hanging_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "hollow_facts.left_standing_mm3" CHECK (left_standing_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "hollow_facts.measured_at_ms" CHECK (measured_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'hollow_facts';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "joints.name" CHECK (length(name) <= 2000),
    CONSTRAINT "joints.gap_mm" CHECK (gap_mm BETWEEN -100000.0 AND 100000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'joints';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "ladder_steps.exposure_s" CHECK (exposure_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "ladder_steps.depth_mm" CHECK (depth_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "ladder_steps.measured_at_ms" CHECK (measured_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'ladder_steps';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "layer_facts.unit_mm" CHECK (unit_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "layer_facts.scale" CHECK (scale BETWEEN 0.001 AND 1000.0),
    CONSTRAINT "layer_facts.layer_um" CHECK (layer_um BETWEEN 5 AND 500),
    CONSTRAINT "layer_facts.measure_version" CHECK (measure_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "layer_facts.layers" CHECK (layers BETWEEN 0 AND 1000000),
    CONSTRAINT "layer_facts.pitch_mm" CHECK (pitch_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "layer_facts.volume_mm3" CHECK (volume_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "layer_facts.largest_section_mm2" CHECK (largest_section_mm2 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "layer_facts.overhang_mm2" CHECK (overhang_mm2 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "layer_facts.tips_at_deg" CHECK (tips_at_deg BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "layer_facts.sealed_mm3" CHECK (sealed_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "layer_facts.peak_pull" CHECK (peak_pull BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "layer_facts.peak_pull_at_mm" CHECK (peak_pull_at_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "layer_facts.support_columns" CHECK (support_columns BETWEEN 0 AND 1000000000000),
    CONSTRAINT "layer_facts.measured_at_ms" CHECK (measured_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'layer_facts';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "link_commands.written_at_ms" CHECK (written_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "link_commands.sent_at_ms" CHECK (sent_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "link_commands.answered_at_ms" CHECK (answered_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "link_commands.number" CHECK (number BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'link_commands';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "machine_runs.number" CHECK (number BETWEEN 0 AND 1000000000000),
    CONSTRAINT "machine_runs.layer" CHECK (layer BETWEEN 0 AND 1000000000000),
    CONSTRAINT "machine_runs.printed_s" CHECK (printed_s BETWEEN -1.7976931348623157e+308 AND 1.7976931348623157e+308),
    CONSTRAINT "machine_runs.began_ml" CHECK (began_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "machine_runs.seen_at_ms" CHECK (seen_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "machine_runs.over_at_ms" CHECK (over_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'machine_runs';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "miniatures.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "miniatures.number" CHECK (number BETWEEN 0 AND 1000000000000),
    CONSTRAINT "miniatures.begun_at_ms" CHECK (begun_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "miniatures.changed_at_ms" CHECK (changed_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "miniatures.apart_at_ms" CHECK (apart_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'miniatures';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "models.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "models.name" CHECK (length(name) <= 2000),
    CONSTRAINT "models.quantity" CHECK (quantity BETWEEN 0 AND 5000),
    CONSTRAINT "models.base_width_mm" CHECK (base_width_mm BETWEEN 0.0 AND 1000.0),
    CONSTRAINT "models.base_depth_mm" CHECK (base_depth_mm BETWEEN 0.0 AND 1000.0),
    CONSTRAINT "models.position" CHECK (position BETWEEN -1000000000 AND 1000000000000),
    CONSTRAINT "models.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "models.carries" CHECK (carries BETWEEN 0 AND 5000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'models';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "moves.ul" CHECK (ul BETWEEN 0 AND 100000000),
    CONSTRAINT "moves.moved_at_ms" CHECK (moved_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'moves';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "options.name" CHECK (length(name) <= 2000),
    CONSTRAINT "options.models" CHECK (models BETWEEN 0 AND 5000),
    CONSTRAINT "options.position" CHECK (position BETWEEN -1000000000 AND 1000000000000),
    CONSTRAINT "options.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'options';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "parts.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "parts.name" CHECK (length(name) <= 2000),
    CONSTRAINT "parts.count" CHECK (count BETWEEN 0 AND 500),
    CONSTRAINT "parts.spares" CHECK (spares BETWEEN 0 AND 5000),
    CONSTRAINT "parts.position" CHECK (position BETWEEN -1000000000 AND 1000000000000),
    CONSTRAINT "parts.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'parts';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "photos.taken_at_ms" CHECK (taken_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'photos';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "picks.picked_at_ms" CHECK (picked_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'picks';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "pieces.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "pieces.name" CHECK (length(name) <= 2000),
    CONSTRAINT "pieces.count" CHECK (count BETWEEN 0 AND 500),
    CONSTRAINT "pieces.at_hand" CHECK (at_hand BETWEEN 0 AND 100000),
    CONSTRAINT "pieces.cost_each_minor" CHECK (cost_each_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "pieces.minutes_each" CHECK (minutes_each BETWEEN 0.0 AND 6000.0),
    CONSTRAINT "pieces.position" CHECK (position BETWEEN -1000000000 AND 1000000000000),
    CONSTRAINT "pieces.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'pieces';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "placements.seq" CHECK (seq BETWEEN 0 AND 1000000000000),
    CONSTRAINT "placements.x_mm" CHECK (x_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "placements.y_mm" CHECK (y_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "placements.rotation_deg" CHECK (rotation_deg BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "placements.resin_ml" CHECK (resin_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "placements.pinned" CHECK (pinned BETWEEN 0 AND 1000000000000),
    CONSTRAINT "placements.resin_cost_minor" CHECK (resin_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "placements.hands_cost_minor" CHECK (hands_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "placements.consumables_cost_minor" CHECK (consumables_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "placements.power_cost_minor" CHECK (power_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "placements.wear_cost_minor" CHECK (wear_cost_minor BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'placements';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "plan_demand.wanted" CHECK (wanted BETWEEN 0 AND 1000000),
    CONSTRAINT "plan_demand.left_over" CHECK (left_over BETWEEN 0 AND 1000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'plan_demand';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "plan_edits.seq" CHECK (seq BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plan_edits.made_at_ms" CHECK (made_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'plan_edits';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "plans.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plans.revision" CHECK (revision BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plans.created_at_ms" CHECK (created_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "plans.accepted_at_ms" CHECK (accepted_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "plans.bound_seconds" CHECK (bound_seconds BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "plans.bound_plates" CHECK (bound_plates BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plans.first_seconds" CHECK (first_seconds BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "plans.better_found" CHECK (better_found BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plans.edits_held" CHECK (edits_held BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'plans';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "plates.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plates.number" CHECK (number BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plates.layer_um" CHECK (layer_um BETWEEN 5 AND 500),
    CONSTRAINT "plates.height_mm" CHECK (height_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "plates.layers" CHECK (layers BETWEEN 0 AND 1000000),
    CONSTRAINT "plates.seconds" CHECK (seconds BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "plates.resin_ml" CHECK (resin_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "plates.resin_g" CHECK (resin_g BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "plates.cost_rule" CHECK (cost_rule BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plates.resin_cost_minor" CHECK (resin_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plates.hands_on_cost_minor" CHECK (hands_on_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plates.not_before_ms" CHECK (not_before_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "plates.told_seconds" CHECK (told_seconds BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "plates.told_ml" CHECK (told_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "plates.part_ml" CHECK (part_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "plates.support_ml" CHECK (support_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "plates.film_ml" CHECK (film_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "plates.weighed_times" CHECK (weighed_times BETWEEN 0.0 AND 1000.0),
    CONSTRAINT "plates.consumables_cost_minor" CHECK (consumables_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plates.power_cost_minor" CHECK (power_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plates.wear_cost_minor" CHECK (wear_cost_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "plates.inside_ml" CHECK (inside_ml BETWEEN -1000000.0 AND 1000000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'plates';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "poses.seq" CHECK (seq BETWEEN 0 AND 1000000000000),
    CONSTRAINT "poses.height_mm" CHECK (height_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "poses.contacts" CHECK (contacts BETWEEN 0 AND 1000000000000),
    CONSTRAINT "poses.undominated" CHECK (undominated BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'poses';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "prepared_parts.unit_mm" CHECK (unit_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "prepared_parts.scale" CHECK (scale BETWEEN 0.001 AND 1000.0),
    CONSTRAINT "prepared_parts.layer_um" CHECK (layer_um BETWEEN 5 AND 500),
    CONSTRAINT "prepared_parts.measure_version" CHECK (measure_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "prepared_parts.height_mm" CHECK (height_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "prepared_parts.part_mm3" CHECK (part_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "prepared_parts.support_mm3" CHECK (support_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "prepared_parts.surface_mm2" CHECK (surface_mm2 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "prepared_parts.contacts" CHECK (contacts BETWEEN 0 AND 1000000000000),
    CONSTRAINT "prepared_parts.fine_contacts" CHECK (fine_contacts BETWEEN 0 AND 1000000000000),
    CONSTRAINT "prepared_parts.minutes" CHECK (minutes BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "prepared_parts.starts_left" CHECK (starts_left BETWEEN 0 AND 1000000000000),
    CONSTRAINT "prepared_parts.peak_pull" CHECK (peak_pull BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "prepared_parts.peak_pull_at_mm" CHECK (peak_pull_at_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "prepared_parts.measured_at_ms" CHECK (measured_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'prepared_parts';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "print_meshes.scale" CHECK (scale BETWEEN 0.001 AND 1000.0),
    CONSTRAINT "print_meshes.layer_um" CHECK (layer_um BETWEEN 5 AND 500),
    CONSTRAINT "print_meshes.size_factor" CHECK (size_factor BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "print_meshes.turned_deg" CHECK (turned_deg BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "print_meshes.leans_deg" CHECK (leans_deg BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "print_meshes.shift_mm" CHECK (shift_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "print_meshes.rms_mm" CHECK (rms_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "print_meshes.support_mm3" CHECK (support_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "print_meshes.contacts" CHECK (contacts BETWEEN 0 AND 1000000000000),
    CONSTRAINT "print_meshes.height_mm" CHECK (height_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "print_meshes.arrived_at_ms" CHECK (arrived_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "print_meshes.remeshed" CHECK (remeshed BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'print_meshes';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "print_times.reckoned_s" CHECK (reckoned_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "print_times.told" CHECK (told BETWEEN 0 AND 1000000000000),
    CONSTRAINT "print_times.printed_s" CHECK (printed_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "print_times.said_at_ms" CHECK (said_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'print_times';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "printers.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "printers.name" CHECK (length(name) <= 2000),
    CONSTRAINT "printers.width_mm" CHECK (width_mm BETWEEN 1.0 AND 2000.0),
    CONSTRAINT "printers.depth_mm" CHECK (depth_mm BETWEEN 1.0 AND 2000.0),
    CONSTRAINT "printers.height_mm" CHECK (height_mm BETWEEN 1.0 AND 2000.0),
    CONSTRAINT "printers.margin_mm" CHECK (margin_mm BETWEEN 0.0 AND 500.0),
    CONSTRAINT "printers.startup_s" CHECK (startup_s BETWEEN 0.0 AND 100000.0),
    CONSTRAINT "printers.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "printers.pixel_um" CHECK (pixel_um BETWEEN 1 AND 1000),
    CONSTRAINT "printers.removal_mm" CHECK (removal_mm BETWEEN 0.0 AND 500.0),
    CONSTRAINT "printers.part_pull" CHECK (part_pull BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "printers.plate_pull" CHECK (plate_pull BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "printers.change_minutes" CHECK (change_minutes BETWEEN 0.0 AND 1000000.0),
    CONSTRAINT "printers.change_ml" CHECK (change_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "printers.watts" CHECK (watts BETWEEN 0.0 AND 5000.0),
    CONSTRAINT "printers.price_minor" CHECK (price_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "printers.life_h" CHECK (life_h BETWEEN 1.0 AND 1000000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'printers';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "process_settings.layer_um" CHECK (layer_um BETWEEN 5 AND 500)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'process_settings';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "projects.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "projects.name" CHECK (length(name) <= 2000),
    CONSTRAINT "projects.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "projects.deadline_ms" CHECK (deadline_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "projects.put_away_at_ms" CHECK (put_away_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'projects';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "recipe_versions.version" CHECK (version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "recipe_versions.scale" CHECK (scale BETWEEN 0.001 AND 1000.0),
    CONSTRAINT "recipe_versions.layer_um" CHECK (layer_um BETWEEN 5 AND 500),
    CONSTRAINT "recipe_versions.created_at_ms" CHECK (created_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'recipe_versions';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "recipes.sanded" CHECK (sanded BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'recipes';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "remedies.made_at_ms" CHECK (made_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'remedies';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "resins.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "resins.name" CHECK (length(name) <= 2000),
    CONSTRAINT "resins.price_per_kg_minor" CHECK (price_per_kg_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "resins.density_g_per_ml" CHECK (density_g_per_ml BETWEEN 0.1 AND 10.0),
    CONSTRAINT "resins.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "resins.safe_um" CHECK (safe_um BETWEEN 1 AND 10000),
    CONSTRAINT "resins.fuses_um" CHECK (fuses_um BETWEEN 1 AND 10000),
    CONSTRAINT "resins.cured_g_per_ml" CHECK (cured_g_per_ml BETWEEN 0.1 AND 10.0),
    CONSTRAINT "resins.film_um" CHECK (film_um BETWEEN 0 AND 10000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'resins';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "runs.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "runs.started_at_ms" CHECK (started_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "runs.ended_at_ms" CHECK (ended_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "runs.stopped_at_layer" CHECK (stopped_at_layer BETWEEN 0 AND 1000000),
    CONSTRAINT "runs.room_c" CHECK (room_c BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "runs.vat_ml" CHECK (vat_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "runs.refill_after_s" CHECK (refill_after_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "runs.paused_at_ms" CHECK (paused_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "runs.paused_ms" CHECK (paused_ms BETWEEN -1000000000000 AND 1000000000000),
    CONSTRAINT "runs.looked_at_ms" CHECK (looked_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "runs.refilled_at_ms" CHECK (refilled_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "runs.ahead_ms" CHECK (ahead_ms BETWEEN -1000000000000 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'runs';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "scale_attempts.scale" CHECK (scale BETWEEN 0.001 AND 1000.0),
    CONSTRAINT "scale_attempts.noted_at_ms" CHECK (noted_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'scale_attempts';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "sculpt_chunks.seq" CHECK (seq BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'sculpt_chunks';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "sculpt_facts.measure_version" CHECK (measure_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpt_facts.triangles" CHECK (triangles BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpt_facts.dropped" CHECK (dropped BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpt_facts.width_mm" CHECK (width_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "sculpt_facts.depth_mm" CHECK (depth_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "sculpt_facts.height_mm" CHECK (height_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "sculpt_facts.volume_mm3" CHECK (volume_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "sculpt_facts.surface_mm2" CHECK (surface_mm2 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "sculpt_facts.shells" CHECK (shells BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpt_facts.inverted_shells" CHECK (inverted_shells BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpt_facts.inner_shells" CHECK (inner_shells BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpt_facts.open_edge_mm" CHECK (open_edge_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "sculpt_facts.measured_at_ms" CHECK (measured_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "sculpt_facts.shell_sum_mm3" CHECK (shell_sum_mm3 BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "sculpt_facts.pull_upright" CHECK (pull_upright BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "sculpt_facts.pull_tilted" CHECK (pull_tilted BETWEEN -1000000000000.0 AND 1000000000000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'sculpt_facts';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "sculpts.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpts.name" CHECK (length(name) <= 2000),
    CONSTRAINT "sculpts.file_name" CHECK (length(file_name) <= 2000),
    CONSTRAINT "sculpts.bytes" CHECK (bytes BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpts.imported_at_ms" CHECK (imported_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "sculpts.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "sculpts.unit_mm" CHECK (unit_mm BETWEEN 1e-06 AND 1000000.0),
    CONSTRAINT "sculpts.unit_answered" CHECK (unit_answered BETWEEN 0 AND 1000000000000),
    CONSTRAINT "sculpts.wall_um" CHECK (wall_um BETWEEN 1 AND 1000000),
    CONSTRAINT "sculpts.price_minor" CHECK (price_minor BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'sculpts';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "setting_versions.version" CHECK (version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "setting_versions.exposure_s" CHECK (exposure_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "setting_versions.bottom_layers" CHECK (bottom_layers BETWEEN 0 AND 1000),
    CONSTRAINT "setting_versions.bottom_exposure_s" CHECK (bottom_exposure_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "setting_versions.lift_mm" CHECK (lift_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "setting_versions.lift_mm_per_min" CHECK (lift_mm_per_min BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "setting_versions.retract_mm_per_min" CHECK (retract_mm_per_min BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "setting_versions.rest_s" CHECK (rest_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "setting_versions.tilt_cycle_s" CHECK (tilt_cycle_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "setting_versions.beam_mm2_per_s" CHECK (beam_mm2_per_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "setting_versions.beam_mm_per_s" CHECK (beam_mm_per_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "setting_versions.created_at_ms" CHECK (created_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "setting_versions.for_trial" CHECK (for_trial BETWEEN 0 AND 1000000000000),
    CONSTRAINT "setting_versions.light_off_s" CHECK (light_off_s BETWEEN -1000000000.0 AND 1000000000.0),
    CONSTRAINT "setting_versions.transition_layers" CHECK (transition_layers BETWEEN 0 AND 1000),
    CONSTRAINT "setting_versions.second_lift_mm" CHECK (second_lift_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "setting_versions.second_lift_mm_per_min" CHECK (second_lift_mm_per_min BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "setting_versions.last_retract_mm" CHECK (last_retract_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "setting_versions.last_retract_mm_per_min" CHECK (last_retract_mm_per_min BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "setting_versions.bottom_lift_mm" CHECK (bottom_lift_mm BETWEEN -100000.0 AND 100000.0),
    CONSTRAINT "setting_versions.bottom_lift_mm_per_min" CHECK (bottom_lift_mm_per_min BETWEEN -1000000000000.0 AND 1000000000000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'setting_versions';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "tasks.attempts" CHECK (attempts BETWEEN 0 AND 1000000000000),
    CONSTRAINT "tasks.progress" CHECK (progress BETWEEN -1.0 AND 2.0),
    CONSTRAINT "tasks.changed_at_ms" CHECK (changed_at_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "tasks.claim" CHECK (claim BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'tasks';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "trials.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "trials.begun_at_ms" CHECK (begun_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'trials';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "units.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "units.name" CHECK (length(name) <= 2000),
    CONSTRAINT "units.priority" CHECK (priority BETWEEN 0 AND 1000000),
    CONSTRAINT "units.position" CHECK (position BETWEEN -1000000000 AND 1000000000000),
    CONSTRAINT "units.removed_at_ms" CHECK (removed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'units';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "variants.position" CHECK (position BETWEEN -1000000000 AND 1000000000000),
    CONSTRAINT "variants.name" CHECK (length(name) <= 2000),
    CONSTRAINT "variants.exposure_s" CHECK (exposure_s BETWEEN -1000000000.0 AND 1000000000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'variants';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "vat_checks.checked_at_ms" CHECK (checked_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'vat_checks';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "vats.least_ml" CHECK (least_ml BETWEEN 0.0 AND 20000.0),
    CONSTRAINT "vats.most_ml" CHECK (most_ml BETWEEN 0.0 AND 20000.0)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'vats';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "wears.life" CHECK (life BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "wears.second" CHECK (second BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "wears.since_ms" CHECK (since_ms BETWEEN 0 AND 253402300799999),
    CONSTRAINT "wears.price_minor" CHECK (price_minor BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'wears';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "weighings.copies" CHECK (copies BETWEEN 0 AND 10000),
    CONSTRAINT "weighings.reckoned_g" CHECK (reckoned_g BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "weighings.weighed_g" CHECK (weighed_g BETWEEN -1000000000000.0 AND 1000000000000.0),
    CONSTRAINT "weighings.liquid_ml" CHECK (liquid_ml BETWEEN -1000000.0 AND 1000000.0),
    CONSTRAINT "weighings.weighed_at_ms" CHECK (weighed_at_ms BETWEEN 0 AND 253402300799999)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'weighings';

UPDATE sqlite_schema SET sql = replace(sql, ',
    CONSTRAINT "workshop.row_version" CHECK (row_version BETWEEN 0 AND 1000000000000),
    CONSTRAINT "workshop.name" CHECK (length(name) <= 2000),
    CONSTRAINT "workshop.layer_um" CHECK (layer_um BETWEEN 5 AND 500),
    CONSTRAINT "workshop.clearance_mm" CHECK (clearance_mm BETWEEN 0.0 AND 100.0),
    CONSTRAINT "workshop.waste_share" CHECK (waste_share BETWEEN 0.0 AND 10.0),
    CONSTRAINT "workshop.hands_on_minutes" CHECK (hands_on_minutes BETWEEN 0.0 AND 600.0),
    CONSTRAINT "workshop.hands_on_per_hour_minor" CHECK (hands_on_per_hour_minor BETWEEN 0 AND 1000000000000),
    CONSTRAINT "workshop.copy_minutes" CHECK (copy_minutes BETWEEN 0.0 AND 120.0),
    CONSTRAINT "workshop.contact_minutes" CHECK (contact_minutes BETWEEN 0.0 AND 30.0),
    CONSTRAINT "workshop.kwh_minor" CHECK (kwh_minor BETWEEN 0 AND 1000000000000)
) STRICT', ') STRICT') WHERE type = 'table' AND name = 'workshop';

PRAGMA writable_schema = RESET;
