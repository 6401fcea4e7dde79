// Generated from the migrations by `cargo x schema`; do not edit.

diesel::table! {
    arrivals (id) {
        id -> BigInt,
        uid -> Text,
        mark -> BigInt,
        part_id -> BigInt,
        how -> Text,
        cost_minor -> BigInt,
        note -> Text,
        arrived_at_ms -> BigInt,
        removed_at_ms -> Nullable<BigInt>,
    }
}

diesel::table! {
    attendance (id) {
        id -> Nullable<BigInt>,
        row_version -> BigInt,
        weekly -> Text,
        otherwise -> Text,
        quiet -> Text,
        load_minutes -> Double,
        unload_minutes -> Double,
        look_minutes -> Double,
        assumed -> Text,
    }
}

diesel::table! {
    batch_steps (batch_id, seq) {
        batch_id -> BigInt,
        seq -> BigInt,
        step -> Text,
        minutes -> Double,
        notes -> Text,
        state -> Text,
        began_at_ms -> Nullable<BigInt>,
        ends_at_ms -> Nullable<BigInt>,
        reason -> Text,
    }
}

diesel::table! {
    batches (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        run_id -> BigInt,
        off_at_ms -> BigInt,
        counted -> Nullable<BigInt>,
        wash_agent -> Text,
    }
}

diesel::table! {
    bench_changes (id) {
        id -> BigInt,
        uid -> Text,
        printer_id -> Nullable<BigInt>,
        resin_id -> Nullable<BigInt>,
        changed_at_ms -> BigInt,
        what -> Text,
    }
}

diesel::table! {
    bottles (id) {
        id -> BigInt,
        uid -> Text,
        resin_id -> BigInt,
        size_ml -> Double,
        price_minor -> BigInt,
        came_at_ms -> BigInt,
        best_before_ms -> Nullable<BigInt>,
        empty_g -> Nullable<Double>,
    }
}

diesel::table! {
    bundles (id) {
        id -> BigInt,
        uid -> Text,
        name -> Text,
        price_minor -> BigInt,
        bought_at_ms -> BigInt,
    }
}

diesel::table! {
    choices (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        model_id -> BigInt,
        name -> Text,
        may_go_without -> BigInt,
        position -> BigInt,
        removed_at_ms -> Nullable<BigInt>,
    }
}

diesel::table! {
    concerns_put_aside (id) {
        id -> BigInt,
        uid -> Text,
        project_id -> BigInt,
        concern -> Text,
        words -> Text,
        reason -> Text,
        put_aside_at_ms -> BigInt,
    }
}

diesel::table! {
    copies (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        mark -> BigInt,
        part_id -> BigInt,
        plate_id -> BigInt,
        sculpt_id -> BigInt,
        recipe_version_id -> BigInt,
        stage -> Text,
        cause -> Nullable<Text>,
        note -> Text,
        changed_at_ms -> BigInt,
        failed_at -> Nullable<Text>,
        failed_layer -> Nullable<BigInt>,
        mend -> Text,
        mend_minutes -> Nullable<Double>,
        missing -> BigInt,
    }
}

diesel::table! {
    cures (id) {
        id -> BigInt,
        uid -> Text,
        batch_id -> BigInt,
        minutes -> Double,
        feel -> Text,
        felt_at_ms -> BigInt,
        lamp -> Text,
        kind -> Text,
    }
}

diesel::table! {
    dismissals (id) {
        id -> BigInt,
        uid -> Text,
        sculpt_id -> BigInt,
        finding -> Text,
        reason -> Text,
        dismissed_at_ms -> BigInt,
    }
}

diesel::table! {
    exposure_tests (id) {
        id -> BigInt,
        uid -> Text,
        setting_id -> BigInt,
        of -> Text,
        exposure_s -> Double,
        verdict -> Text,
        room_c -> Nullable<Double>,
        note -> Text,
        tested_at_ms -> BigInt,
    }
}

diesel::table! {
    fine_zones (id) {
        id -> BigInt,
        uid -> Text,
        sculpt_id -> BigInt,
        x_mm -> Double,
        y_mm -> Double,
        z_mm -> Double,
        radius_mm -> Double,
        side -> Text,
    }
}

diesel::table! {
    form_keys (form_key) {
        form_key -> Text,
        spent_at_ms -> BigInt,
    }
}

diesel::table! {
    grades (variant_id, criterion) {
        variant_id -> BigInt,
        criterion -> Text,
        grade -> BigInt,
    }
}

diesel::table! {
    hand_spells (id) {
        id -> BigInt,
        uid -> Text,
        plate_id -> BigInt,
        began_at_ms -> BigInt,
        minutes -> Nullable<Double>,
    }
}

diesel::table! {
    hollow_facts (id) {
        id -> BigInt,
        sculpt_id -> BigInt,
        unit_mm -> Double,
        wall_um -> BigInt,
        measure_version -> BigInt,
        saved_mm3 -> Double,
        uncertain_mm3 -> Double,
        pitch_mm -> Double,
        pockets -> BigInt,
        drains_needed -> BigInt,
        drains -> Text,
        trapped_mm3 -> Double,
        left_hanging_mm3 -> Double,
        left_standing_mm3 -> Double,
        hollows -> Text,
        measured_at_ms -> BigInt,
    }
}

diesel::table! {
    joints (id) {
        id -> BigInt,
        uid -> Text,
        sculpt_id -> BigInt,
        name -> Text,
        gap_mm -> Double,
    }
}

diesel::table! {
    ladder_steps (id) {
        id -> BigInt,
        uid -> Text,
        setting_id -> BigInt,
        exposure_s -> Double,
        depth_mm -> Double,
        measured_at_ms -> BigInt,
    }
}

diesel::table! {
    layer_facts (id) {
        id -> BigInt,
        sculpt_id -> BigInt,
        unit_mm -> Double,
        scale -> Double,
        layer_um -> BigInt,
        orientation -> Text,
        measure_version -> BigInt,
        layers -> BigInt,
        pitch_mm -> Double,
        volume_mm3 -> Double,
        largest_section_mm2 -> Double,
        overhang_mm2 -> Double,
        tips_at_deg -> Double,
        sealed_mm3 -> Double,
        peak_pull -> Double,
        peak_pull_at_mm -> Double,
        support_columns -> BigInt,
        islands -> Text,
        cups -> Text,
        area_curve -> Text,
        measured_at_ms -> BigInt,
        thickness -> Text,
        raised -> Nullable<Text>,
    }
}

diesel::table! {
    link_commands (id) {
        id -> BigInt,
        uid -> Text,
        printer_id -> BigInt,
        plate_id -> BigInt,
        kind -> Text,
        state -> Text,
        file -> Text,
        checksum -> Text,
        said -> Text,
        why -> Text,
        written_at_ms -> BigInt,
        sent_at_ms -> Nullable<BigInt>,
        answered_at_ms -> Nullable<BigInt>,
        machine -> Text,
        boot -> Text,
        number -> BigInt,
    }
}

diesel::table! {
    machine_runs (run_id) {
        run_id -> BigInt,
        printer_id -> BigInt,
        number -> BigInt,
        state -> Text,
        trouble -> Text,
        layer -> BigInt,
        printed_s -> Double,
        began_ml -> Nullable<Double>,
        seen_at_ms -> BigInt,
        over_at_ms -> Nullable<BigInt>,
        machine -> Text,
        boot -> Text,
        file -> Text,
        checksum -> Text,
    }
}

diesel::table! {
    miniature_options (miniature_id, option_id) {
        miniature_id -> BigInt,
        option_id -> BigInt,
    }
}

diesel::table! {
    miniatures (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        model_id -> BigInt,
        number -> BigInt,
        step -> Text,
        begun_at_ms -> BigInt,
        changed_at_ms -> BigInt,
        apart_at_ms -> Nullable<BigInt>,
    }
}

diesel::table! {
    models (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        unit_id -> BigInt,
        name -> Text,
        quantity -> BigInt,
        base_width_mm -> Double,
        base_depth_mm -> Double,
        position -> BigInt,
        removed_at_ms -> Nullable<BigInt>,
        carries -> BigInt,
    }
}

diesel::table! {
    moves (id) {
        id -> BigInt,
        uid -> Text,
        from_place -> Text,
        from_bottle_id -> Nullable<BigInt>,
        from_printer_id -> Nullable<BigInt>,
        to_place -> Text,
        to_bottle_id -> Nullable<BigInt>,
        to_printer_id -> Nullable<BigInt>,
        ul -> BigInt,
        resin_id -> Nullable<BigInt>,
        run_id -> Nullable<BigInt>,
        note -> Text,
        moved_at_ms -> BigInt,
        cause -> Text,
    }
}

diesel::table! {
    options (id) {
        id -> BigInt,
        uid -> Text,
        choice_id -> BigInt,
        name -> Text,
        models -> BigInt,
        position -> BigInt,
        removed_at_ms -> Nullable<BigInt>,
    }
}

diesel::table! {
    parts (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        model_id -> BigInt,
        name -> Text,
        count -> BigInt,
        spares -> BigInt,
        sculpt_id -> Nullable<BigInt>,
        recipe_id -> BigInt,
        position -> BigInt,
        removed_at_ms -> Nullable<BigInt>,
        option_id -> Nullable<BigInt>,
        spares_why -> Text,
    }
}

diesel::table! {
    photos (id) {
        id -> BigInt,
        uid -> Text,
        copy_id -> BigInt,
        taken_at_ms -> BigInt,
        jpeg -> Binary,
    }
}

diesel::table! {
    picks (id) {
        id -> BigInt,
        uid -> Text,
        part_id -> BigInt,
        sculpt_id -> BigInt,
        reason -> Text,
        picked_at_ms -> BigInt,
    }
}

diesel::table! {
    pieces (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        model_id -> BigInt,
        option_id -> Nullable<BigInt>,
        name -> Text,
        source -> Text,
        count -> BigInt,
        at_hand -> BigInt,
        cost_each_minor -> BigInt,
        minutes_each -> Double,
        position -> BigInt,
        removed_at_ms -> Nullable<BigInt>,
    }
}

diesel::table! {
    placements (id) {
        id -> BigInt,
        plate_id -> BigInt,
        seq -> BigInt,
        part_id -> BigInt,
        sculpt_id -> BigInt,
        recipe_version_id -> BigInt,
        x_mm -> Double,
        y_mm -> Double,
        rotation_deg -> Double,
        resin_ml -> Double,
        copy_id -> Nullable<BigInt>,
        pinned -> BigInt,
        resin_cost_minor -> BigInt,
        hands_cost_minor -> BigInt,
        consumables_cost_minor -> BigInt,
        power_cost_minor -> BigInt,
        wear_cost_minor -> BigInt,
    }
}

diesel::table! {
    plan_demand (plan_id, part_id) {
        plan_id -> BigInt,
        part_id -> BigInt,
        sculpt_id -> BigInt,
        recipe_version_id -> BigInt,
        wanted -> BigInt,
        left_over -> BigInt,
        left_over_why -> Nullable<Text>,
    }
}

diesel::table! {
    plan_edits (id) {
        id -> BigInt,
        uid -> Text,
        plan_id -> BigInt,
        seq -> BigInt,
        plate_id -> BigInt,
        words -> Text,
        before -> Text,
        after -> Text,
        made_at_ms -> BigInt,
    }
}

diesel::table! {
    plans (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        project_id -> BigInt,
        revision -> BigInt,
        state -> Text,
        fingerprint -> Text,
        refusal -> Nullable<Text>,
        created_at_ms -> BigInt,
        accepted_at_ms -> Nullable<BigInt>,
        scope -> Text,
        effort -> Text,
        from_plan_id -> Nullable<BigInt>,
        bound_seconds -> Double,
        bound_plates -> BigInt,
        first_seconds -> Nullable<Double>,
        better_found -> BigInt,
        edits_held -> BigInt,
    }
}

diesel::table! {
    plates (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        project_id -> BigInt,
        plan_id -> BigInt,
        number -> BigInt,
        state -> Text,
        printer_id -> BigInt,
        resin_id -> BigInt,
        layer_um -> BigInt,
        setting_version_id -> BigInt,
        height_mm -> Double,
        layers -> BigInt,
        seconds -> Double,
        resin_ml -> Double,
        resin_g -> Double,
        cost_rule -> BigInt,
        resin_cost_minor -> BigInt,
        hands_on_cost_minor -> BigInt,
        not_before_ms -> Nullable<BigInt>,
        told_seconds -> Nullable<Double>,
        told_ml -> Nullable<Double>,
        part_ml -> Double,
        support_ml -> Double,
        film_ml -> Double,
        weighed_times -> Double,
        consumables_cost_minor -> BigInt,
        power_cost_minor -> BigInt,
        wear_cost_minor -> BigInt,
        cost_basis -> Text,
        inside_ml -> Double,
    }
}

diesel::table! {
    poses (id) {
        id -> BigInt,
        sculpt_id -> BigInt,
        asked -> Text,
        seq -> BigInt,
        orientation -> Text,
        origin -> Text,
        scores -> Text,
        height_mm -> Double,
        contacts -> BigInt,
        best_in -> Text,
        undominated -> BigInt,
        picture -> Binary,
    }
}

diesel::table! {
    practices (id) {
        id -> BigInt,
        project_id -> Nullable<BigInt>,
        question -> Text,
        answer -> Text,
    }
}

diesel::table! {
    prepared_parts (id) {
        id -> BigInt,
        sculpt_id -> BigInt,
        unit_mm -> Double,
        scale -> Double,
        layer_um -> BigInt,
        orientation -> Text,
        supports -> Text,
        measure_version -> BigInt,
        height_mm -> Double,
        part_mm3 -> Double,
        support_mm3 -> Double,
        surface_mm2 -> Double,
        contacts -> BigInt,
        fine_contacts -> BigInt,
        minutes -> Double,
        starts_left -> BigInt,
        peak_pull -> Double,
        peak_pull_at_mm -> Double,
        outline -> Text,
        height_profile -> Text,
        drawn -> Text,
        picture -> Binary,
        measured_at_ms -> BigInt,
        loads -> Text,
    }
}

diesel::table! {
    print_meshes (id) {
        id -> BigInt,
        uid -> Text,
        recipe_id -> BigInt,
        design_id -> BigInt,
        file_id -> BigInt,
        scale -> Double,
        orientation -> Text,
        layer_um -> BigInt,
        state -> Text,
        refusal -> Nullable<Text>,
        size_factor -> Nullable<Double>,
        turned_deg -> Nullable<Double>,
        leans_deg -> Nullable<Double>,
        shift_mm -> Nullable<Double>,
        rms_mm -> Nullable<Double>,
        support_mm3 -> Nullable<Double>,
        contacts -> Nullable<BigInt>,
        height_mm -> Nullable<Double>,
        arrived_at_ms -> BigInt,
        remeshed -> BigInt,
    }
}

diesel::table! {
    print_times (run_id) {
        run_id -> BigInt,
        printer_id -> BigInt,
        reckoned_s -> Double,
        told -> BigInt,
        printed_s -> Double,
        said_at_ms -> BigInt,
    }
}

diesel::table! {
    printer_links (printer_id) {
        printer_id -> BigInt,
        address -> Text,
    }
}

diesel::table! {
    printers (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        name -> Text,
        kind -> Text,
        width_mm -> Double,
        depth_mm -> Double,
        height_mm -> Double,
        margin_mm -> Double,
        startup_s -> Double,
        assumed -> Text,
        removed_at_ms -> Nullable<BigInt>,
        pixel_um -> BigInt,
        removal_mm -> Double,
        part_pull -> Double,
        plate_pull -> Double,
        to_check -> Text,
        change_minutes -> Double,
        change_ml -> Double,
        watts -> Double,
        price_minor -> BigInt,
        life_h -> Double,
        kept_clear -> Text,
    }
}

diesel::table! {
    process_settings (id) {
        id -> BigInt,
        uid -> Text,
        printer_id -> BigInt,
        resin_id -> BigInt,
        layer_um -> BigInt,
    }
}

diesel::table! {
    projects (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        name -> Text,
        removed_at_ms -> Nullable<BigInt>,
        deadline_ms -> Nullable<BigInt>,
        put_away_at_ms -> Nullable<BigInt>,
    }
}

diesel::table! {
    recipe_versions (id) {
        id -> BigInt,
        uid -> Text,
        recipe_id -> BigInt,
        version -> BigInt,
        scale -> Double,
        orientation -> Text,
        supports -> Text,
        resin_id -> BigInt,
        layer_um -> BigInt,
        changed -> Text,
        created_at_ms -> BigInt,
    }
}

diesel::table! {
    recipes (id) {
        id -> BigInt,
        uid -> Text,
        scale_lock -> Text,
        sanded -> BigInt,
    }
}

diesel::table! {
    remedies (id) {
        id -> BigInt,
        uid -> Text,
        plate_id -> BigInt,
        cause -> Text,
        change -> Text,
        state -> Text,
        made_at_ms -> BigInt,
    }
}

diesel::table! {
    reservations (id) {
        id -> BigInt,
        uid -> Text,
        miniature_id -> BigInt,
        copy_id -> Nullable<BigInt>,
        arrival_id -> Nullable<BigInt>,
    }
}

diesel::table! {
    resins (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        name -> Text,
        price_per_kg_minor -> BigInt,
        density_g_per_ml -> Double,
        viscosity -> Text,
        nature -> Text,
        wash_agents -> Text,
        assumed -> Text,
        removed_at_ms -> Nullable<BigInt>,
        safe_um -> BigInt,
        fuses_um -> BigInt,
        data_sheet -> Text,
        cured_g_per_ml -> Double,
        film_um -> BigInt,
    }
}

diesel::table! {
    run_checks (id) {
        id -> BigInt,
        uid -> Text,
        run_id -> BigInt,
        item -> Text,
        answer -> Text,
        words -> Text,
    }
}

diesel::table! {
    runs (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        plate_id -> BigInt,
        started_at_ms -> BigInt,
        ended_at_ms -> Nullable<BigInt>,
        outcome -> Nullable<Text>,
        stopped_at_layer -> Nullable<BigInt>,
        room_c -> Nullable<Double>,
        note -> Text,
        vat_ml -> Nullable<Double>,
        refill_after_s -> Nullable<Double>,
        paused_at_ms -> Nullable<BigInt>,
        paused_ms -> BigInt,
        looked_at_ms -> Nullable<BigInt>,
        refilled_at_ms -> Nullable<BigInt>,
        trouble -> Text,
        ahead_ms -> BigInt,
    }
}

diesel::table! {
    scale_attempts (id) {
        id -> BigInt,
        uid -> Text,
        sculpt_id -> BigInt,
        printer_id -> BigInt,
        resin_id -> BigInt,
        scale -> Double,
        outcome -> Text,
        noted_at_ms -> BigInt,
    }
}

diesel::table! {
    sculpt_chunks (sculpt_id, seq) {
        sculpt_id -> BigInt,
        seq -> BigInt,
        data -> Binary,
    }
}

diesel::table! {
    sculpt_facts (sculpt_id) {
        sculpt_id -> BigInt,
        measure_version -> BigInt,
        triangles -> BigInt,
        dropped -> BigInt,
        width_mm -> Double,
        depth_mm -> Double,
        height_mm -> Double,
        volume_mm3 -> Double,
        surface_mm2 -> Double,
        shells -> BigInt,
        inverted_shells -> BigInt,
        inner_shells -> BigInt,
        open_edge_mm -> Double,
        outline -> Text,
        height_profile -> Text,
        measured_at_ms -> BigInt,
        shell_sum_mm3 -> Double,
        warnings -> Text,
        pull_upright -> Nullable<Double>,
        pull_tilted -> Nullable<Double>,
    }
}

diesel::table! {
    sculpt_pictures (sculpt_id, side) {
        sculpt_id -> BigInt,
        side -> Text,
        png -> Binary,
    }
}

diesel::table! {
    sculpts (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        name -> Text,
        file_name -> Text,
        hash -> Nullable<Text>,
        bytes -> BigInt,
        state -> Text,
        refusal -> Nullable<Text>,
        imported_at_ms -> BigInt,
        removed_at_ms -> Nullable<BigInt>,
        unit_mm -> Double,
        unit_asked -> Nullable<Text>,
        unit_answered -> BigInt,
        wall_um -> BigInt,
        price_minor -> BigInt,
        role -> Text,
        bundle_id -> Nullable<BigInt>,
        supports -> Text,
    }
}

diesel::table! {
    setting_versions (id) {
        id -> BigInt,
        uid -> Text,
        setting_id -> BigInt,
        version -> BigInt,
        exposure_s -> Double,
        bottom_layers -> BigInt,
        bottom_exposure_s -> Double,
        lift_mm -> Double,
        lift_mm_per_min -> Double,
        retract_mm_per_min -> Double,
        rest_s -> Double,
        tilt_cycle_s -> Double,
        beam_mm2_per_s -> Double,
        beam_mm_per_s -> Double,
        assumed -> Text,
        created_at_ms -> BigInt,
        for_trial -> BigInt,
        light_off_s -> Double,
        transition_layers -> BigInt,
        second_lift_mm -> Double,
        second_lift_mm_per_min -> Double,
        last_retract_mm -> Double,
        last_retract_mm_per_min -> Double,
        bottom_lift_mm -> Double,
        bottom_lift_mm_per_min -> Double,
    }
}

diesel::table! {
    tasks (id) {
        id -> BigInt,
        uid -> Text,
        kind -> Text,
        input_key -> Text,
        state -> Text,
        attempts -> BigInt,
        progress -> Double,
        message -> Text,
        changed_at_ms -> BigInt,
        claim -> BigInt,
    }
}

diesel::table! {
    trials (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        part_id -> BigInt,
        recipe_version_id -> BigInt,
        state -> Text,
        criteria -> Text,
        plan_id -> Nullable<BigInt>,
        winner_id -> Nullable<BigInt>,
        won_version_id -> Nullable<BigInt>,
        reason -> Text,
        begun_at_ms -> BigInt,
    }
}

diesel::table! {
    units (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        project_id -> BigInt,
        name -> Text,
        priority -> BigInt,
        position -> BigInt,
        removed_at_ms -> Nullable<BigInt>,
        carrier_id -> Nullable<BigInt>,
    }
}

diesel::table! {
    variants (id) {
        id -> BigInt,
        uid -> Text,
        trial_id -> BigInt,
        position -> BigInt,
        name -> Text,
        recipe_version_id -> BigInt,
        printer_id -> BigInt,
        exposure_s -> Nullable<Double>,
        note -> Text,
    }
}

diesel::table! {
    vat_checks (id) {
        id -> BigInt,
        uid -> Text,
        printer_id -> BigInt,
        checked_at_ms -> BigInt,
        found -> Text,
    }
}

diesel::table! {
    vats (printer_id) {
        printer_id -> BigInt,
        least_ml -> Double,
        most_ml -> Double,
    }
}

diesel::table! {
    wears (id) {
        id -> BigInt,
        uid -> Text,
        kind -> Text,
        printer_id -> Nullable<BigInt>,
        life -> Double,
        second -> Double,
        since_ms -> BigInt,
        price_minor -> BigInt,
    }
}

diesel::table! {
    weighings (id) {
        id -> BigInt,
        uid -> Text,
        plate_id -> BigInt,
        resin_id -> BigInt,
        part_id -> Nullable<BigInt>,
        state -> Text,
        copies -> BigInt,
        reckoned_g -> Double,
        weighed_g -> Double,
        liquid_ml -> Nullable<Double>,
        weighed_at_ms -> BigInt,
    }
}

diesel::table! {
    workshop (id) {
        id -> BigInt,
        uid -> Text,
        row_version -> BigInt,
        name -> Text,
        currency -> Text,
        time_zone -> Text,
        layer_um -> BigInt,
        clearance_mm -> Double,
        waste_share -> Double,
        hands_on_minutes -> Double,
        hands_on_per_hour_minor -> BigInt,
        assumed -> Text,
        passphrase -> Text,
        copy_minutes -> Double,
        contact_minutes -> Double,
        kwh_minor -> BigInt,
    }
}

diesel::joinable!(arrivals -> parts (part_id));
diesel::joinable!(batch_steps -> batches (batch_id));
diesel::joinable!(batches -> runs (run_id));
diesel::joinable!(bench_changes -> printers (printer_id));
diesel::joinable!(bench_changes -> resins (resin_id));
diesel::joinable!(bottles -> resins (resin_id));
diesel::joinable!(choices -> models (model_id));
diesel::joinable!(concerns_put_aside -> projects (project_id));
diesel::joinable!(copies -> parts (part_id));
diesel::joinable!(copies -> plates (plate_id));
diesel::joinable!(copies -> recipe_versions (recipe_version_id));
diesel::joinable!(copies -> sculpts (sculpt_id));
diesel::joinable!(cures -> batches (batch_id));
diesel::joinable!(dismissals -> sculpts (sculpt_id));
diesel::joinable!(exposure_tests -> process_settings (setting_id));
diesel::joinable!(fine_zones -> sculpts (sculpt_id));
diesel::joinable!(grades -> variants (variant_id));
diesel::joinable!(hand_spells -> plates (plate_id));
diesel::joinable!(hollow_facts -> sculpts (sculpt_id));
diesel::joinable!(joints -> sculpts (sculpt_id));
diesel::joinable!(ladder_steps -> process_settings (setting_id));
diesel::joinable!(layer_facts -> sculpts (sculpt_id));
diesel::joinable!(link_commands -> plates (plate_id));
diesel::joinable!(link_commands -> printers (printer_id));
diesel::joinable!(machine_runs -> printers (printer_id));
diesel::joinable!(machine_runs -> runs (run_id));
diesel::joinable!(miniature_options -> miniatures (miniature_id));
diesel::joinable!(miniature_options -> options (option_id));
diesel::joinable!(miniatures -> models (model_id));
diesel::joinable!(models -> units (unit_id));
diesel::joinable!(moves -> bottles (from_bottle_id));
diesel::joinable!(moves -> printers (from_printer_id));
diesel::joinable!(moves -> resins (resin_id));
diesel::joinable!(moves -> runs (run_id));
diesel::joinable!(options -> choices (choice_id));
diesel::joinable!(parts -> models (model_id));
diesel::joinable!(parts -> options (option_id));
diesel::joinable!(parts -> recipes (recipe_id));
diesel::joinable!(parts -> sculpts (sculpt_id));
diesel::joinable!(photos -> copies (copy_id));
diesel::joinable!(picks -> parts (part_id));
diesel::joinable!(picks -> sculpts (sculpt_id));
diesel::joinable!(pieces -> models (model_id));
diesel::joinable!(pieces -> options (option_id));
diesel::joinable!(placements -> copies (copy_id));
diesel::joinable!(placements -> parts (part_id));
diesel::joinable!(placements -> plates (plate_id));
diesel::joinable!(placements -> recipe_versions (recipe_version_id));
diesel::joinable!(placements -> sculpts (sculpt_id));
diesel::joinable!(plan_demand -> parts (part_id));
diesel::joinable!(plan_demand -> plans (plan_id));
diesel::joinable!(plan_demand -> recipe_versions (recipe_version_id));
diesel::joinable!(plan_demand -> sculpts (sculpt_id));
diesel::joinable!(plan_edits -> plans (plan_id));
diesel::joinable!(plan_edits -> plates (plate_id));
diesel::joinable!(plans -> projects (project_id));
diesel::joinable!(plates -> plans (plan_id));
diesel::joinable!(plates -> printers (printer_id));
diesel::joinable!(plates -> projects (project_id));
diesel::joinable!(plates -> resins (resin_id));
diesel::joinable!(plates -> setting_versions (setting_version_id));
diesel::joinable!(poses -> sculpts (sculpt_id));
diesel::joinable!(practices -> projects (project_id));
diesel::joinable!(prepared_parts -> sculpts (sculpt_id));
diesel::joinable!(print_meshes -> sculpts (design_id));
diesel::joinable!(print_meshes -> recipes (recipe_id));
diesel::joinable!(print_times -> printers (printer_id));
diesel::joinable!(print_times -> runs (run_id));
diesel::joinable!(printer_links -> printers (printer_id));
diesel::joinable!(process_settings -> printers (printer_id));
diesel::joinable!(process_settings -> resins (resin_id));
diesel::joinable!(recipe_versions -> recipes (recipe_id));
diesel::joinable!(recipe_versions -> resins (resin_id));
diesel::joinable!(remedies -> plates (plate_id));
diesel::joinable!(reservations -> arrivals (arrival_id));
diesel::joinable!(reservations -> copies (copy_id));
diesel::joinable!(reservations -> miniatures (miniature_id));
diesel::joinable!(run_checks -> runs (run_id));
diesel::joinable!(runs -> plates (plate_id));
diesel::joinable!(scale_attempts -> printers (printer_id));
diesel::joinable!(scale_attempts -> resins (resin_id));
diesel::joinable!(scale_attempts -> sculpts (sculpt_id));
diesel::joinable!(sculpt_chunks -> sculpts (sculpt_id));
diesel::joinable!(sculpt_facts -> sculpts (sculpt_id));
diesel::joinable!(sculpt_pictures -> sculpts (sculpt_id));
diesel::joinable!(sculpts -> bundles (bundle_id));
diesel::joinable!(setting_versions -> process_settings (setting_id));
diesel::joinable!(trials -> parts (part_id));
diesel::joinable!(trials -> plans (plan_id));
diesel::joinable!(trials -> recipe_versions (recipe_version_id));
diesel::joinable!(units -> projects (project_id));
diesel::joinable!(variants -> printers (printer_id));
diesel::joinable!(variants -> recipe_versions (recipe_version_id));
diesel::joinable!(variants -> trials (trial_id));
diesel::joinable!(vat_checks -> printers (printer_id));
diesel::joinable!(vats -> printers (printer_id));
diesel::joinable!(wears -> printers (printer_id));
diesel::joinable!(weighings -> parts (part_id));
diesel::joinable!(weighings -> plates (plate_id));
diesel::joinable!(weighings -> resins (resin_id));

diesel::allow_tables_to_appear_in_same_query!(
    arrivals,
    attendance,
    batch_steps,
    batches,
    bench_changes,
    bottles,
    bundles,
    choices,
    concerns_put_aside,
    copies,
    cures,
    dismissals,
    exposure_tests,
    fine_zones,
    form_keys,
    grades,
    hand_spells,
    hollow_facts,
    joints,
    ladder_steps,
    layer_facts,
    link_commands,
    machine_runs,
    miniature_options,
    miniatures,
    models,
    moves,
    options,
    parts,
    photos,
    picks,
    pieces,
    placements,
    plan_demand,
    plan_edits,
    plans,
    plates,
    poses,
    practices,
    prepared_parts,
    print_meshes,
    print_times,
    printer_links,
    printers,
    process_settings,
    projects,
    recipe_versions,
    recipes,
    remedies,
    reservations,
    resins,
    run_checks,
    runs,
    scale_attempts,
    sculpt_chunks,
    sculpt_facts,
    sculpt_pictures,
    sculpts,
    setting_versions,
    tasks,
    trials,
    units,
    variants,
    vat_checks,
    vats,
    wears,
    weighings,
    workshop,
);
