-- The catalogue views of SQL Server, with columns as its documentation lists them (those that matter to a
-- reader of schemas); what a fixture leaves out has the usual value. What a row is told by is not NULL; of other columns the
-- documentation rarely says whether they can be. Columns that came after 2016 stand in profile.go, with what refuses them before.
CREATE TABLE sys.schemas (name nvarchar(128), schema_id int, principal_id int DEFAULT 1);
CREATE TABLE sys.database_principals (name nvarchar(128), principal_id int, type char(1), type_desc nvarchar(60), default_schema_name nvarchar(128), owning_principal_id int, is_fixed_role bit DEFAULT 0, authentication_type int DEFAULT 1, authentication_type_desc nvarchar(60), sid varbinary(85));
CREATE TABLE sys.database_role_members (role_principal_id int NOT NULL, member_principal_id int NOT NULL);
CREATE TABLE sys.database_permissions (class tinyint, class_desc nvarchar(60), major_id int DEFAULT 0, minor_id int DEFAULT 0, grantee_principal_id int, grantor_principal_id int DEFAULT 1, type char(4), permission_name nvarchar(128), state char(1) DEFAULT 'G', state_desc nvarchar(60) DEFAULT 'GRANT');
CREATE TABLE sys.tables (name nvarchar(128), object_id int NOT NULL, type char(2) DEFAULT 'U', principal_id int, schema_id int DEFAULT 1, is_ms_shipped bit DEFAULT 0, lob_data_space_id int DEFAULT 0, filestream_data_space_id int, is_memory_optimized bit DEFAULT 0,
  durability tinyint DEFAULT 0, durability_desc nvarchar(60) DEFAULT 'SCHEMA_AND_DATA', temporal_type tinyint DEFAULT 0, history_table_id int, lock_escalation_desc nvarchar(60) DEFAULT 'TABLE', is_external bit DEFAULT 0, is_filetable bit DEFAULT 0, history_retention_period int DEFAULT -1, history_retention_period_unit_desc nvarchar(10) DEFAULT 'INFINITE', is_node bit DEFAULT 0, is_edge bit DEFAULT 0, ledger_type tinyint DEFAULT 0, ledger_type_desc nvarchar(60) DEFAULT 'NON_LEDGER_TABLE');
CREATE TABLE sys.views (name nvarchar(128), object_id int NOT NULL, principal_id int, schema_id int DEFAULT 1, is_ms_shipped bit DEFAULT 0, with_check_option bit DEFAULT 0);
CREATE TABLE sys.procedures (name nvarchar(128), object_id int NOT NULL, principal_id int, schema_id int DEFAULT 1, type char(2) DEFAULT 'P', is_ms_shipped bit DEFAULT 0);
CREATE TABLE sys.standin_functions (name nvarchar(128), object_id int NOT NULL, principal_id int, schema_id int DEFAULT 1, type char(2), is_ms_shipped bit DEFAULT 0);
CREATE TABLE sys.triggers (name nvarchar(128), object_id int NOT NULL, parent_class tinyint DEFAULT 1, parent_class_desc nvarchar(60) DEFAULT 'OBJECT_OR_COLUMN', parent_id int, type char(2) DEFAULT 'TR', is_ms_shipped bit DEFAULT 0, is_disabled bit DEFAULT 0, is_not_for_replication bit DEFAULT 0, is_instead_of_trigger bit DEFAULT 0);
CREATE TABLE sys.trigger_events (object_id int NOT NULL, type int, type_desc nvarchar(60), is_first bit DEFAULT 0, is_last bit DEFAULT 0);
CREATE TABLE sys.sequences (name nvarchar(128), object_id int NOT NULL, principal_id int, schema_id int DEFAULT 1, is_ms_shipped bit DEFAULT 0, start_value sql_variant, increment sql_variant DEFAULT 1, minimum_value sql_variant, maximum_value sql_variant, is_cycling bit DEFAULT 0, is_cached bit DEFAULT 1, cache_size int, system_type_id tinyint DEFAULT 127, user_type_id int DEFAULT 127, precision tinyint DEFAULT 19, scale tinyint DEFAULT 0);
CREATE TABLE sys.synonyms (name nvarchar(128), object_id int NOT NULL, principal_id int, schema_id int DEFAULT 1, is_ms_shipped bit DEFAULT 0, base_object_name nvarchar(1035));
CREATE TABLE sys.types (name nvarchar(128), system_type_id tinyint, user_type_id int, schema_id int DEFAULT 4, principal_id int, max_length smallint DEFAULT 0, precision tinyint DEFAULT 0, scale tinyint DEFAULT 0, collation_name nvarchar(128), is_nullable bit DEFAULT 1, is_user_defined bit DEFAULT 0, is_assembly_type bit DEFAULT 0, default_object_id int DEFAULT 0, rule_object_id int DEFAULT 0, is_table_type bit DEFAULT 0);
CREATE TABLE sys.table_types (name nvarchar(128), system_type_id tinyint DEFAULT 243, user_type_id int, schema_id int DEFAULT 1, is_user_defined bit DEFAULT 1, is_table_type bit DEFAULT 1, type_table_object_id int, is_memory_optimized bit DEFAULT 0);
CREATE TABLE sys.columns (object_id int NOT NULL, name nvarchar(128), column_id int NOT NULL, system_type_id tinyint, user_type_id int, max_length smallint DEFAULT 4, precision tinyint DEFAULT 0, scale tinyint DEFAULT 0, collation_name nvarchar(128), is_nullable bit DEFAULT 1, encryption_type int, is_ansi_padded bit DEFAULT 1,
  is_rowguidcol bit DEFAULT 0, is_identity bit DEFAULT 0, is_computed bit DEFAULT 0, is_filestream bit DEFAULT 0, is_xml_document bit DEFAULT 0, xml_collection_id int DEFAULT 0, default_object_id int DEFAULT 0, rule_object_id int DEFAULT 0, is_sparse bit DEFAULT 0, is_column_set bit DEFAULT 0, generated_always_type tinyint DEFAULT 0, is_hidden bit DEFAULT 0, is_masked bit DEFAULT 0);
CREATE TABLE sys.identity_columns (object_id int NOT NULL, name nvarchar(128), column_id int NOT NULL, seed_value sql_variant DEFAULT 1, increment_value sql_variant DEFAULT 1, is_not_for_replication bit DEFAULT 0);
CREATE TABLE sys.computed_columns (object_id int NOT NULL, name nvarchar(128), column_id int NOT NULL, definition nvarchar, uses_database_collation bit DEFAULT 1, is_persisted bit DEFAULT 0);
CREATE TABLE sys.masked_columns (object_id int NOT NULL, name nvarchar(128), column_id int NOT NULL, masking_function nvarchar(4000), is_masked bit DEFAULT 1);
CREATE TABLE sys.default_constraints (name nvarchar(128), object_id int NOT NULL, schema_id int DEFAULT 1, parent_object_id int, parent_column_id int, definition nvarchar, is_system_named bit DEFAULT 0);
CREATE TABLE sys.key_constraints (name nvarchar(128), object_id int NOT NULL, schema_id int DEFAULT 1, parent_object_id int, type char(2), unique_index_id int, is_system_named bit DEFAULT 0);
CREATE TABLE sys.check_constraints (name nvarchar(128), object_id int NOT NULL, schema_id int DEFAULT 1, parent_object_id int, parent_column_id int DEFAULT 0, definition nvarchar, is_disabled bit DEFAULT 0, is_not_for_replication bit DEFAULT 0, is_not_trusted bit DEFAULT 0, is_system_named bit DEFAULT 0);
CREATE TABLE sys.foreign_keys (name nvarchar(128), object_id int NOT NULL, schema_id int DEFAULT 1, parent_object_id int, referenced_object_id int, key_index_id int DEFAULT 1, is_disabled bit DEFAULT 0, is_not_for_replication bit DEFAULT 0, is_not_trusted bit DEFAULT 0, delete_referential_action tinyint DEFAULT 0, delete_referential_action_desc nvarchar(60) DEFAULT 'NO_ACTION', update_referential_action tinyint DEFAULT 0, update_referential_action_desc nvarchar(60) DEFAULT 'NO_ACTION', is_system_named bit DEFAULT 0);
CREATE TABLE sys.foreign_key_columns (constraint_object_id int NOT NULL, constraint_column_id int NOT NULL, parent_object_id int, parent_column_id int, referenced_object_id int, referenced_column_id int);
CREATE TABLE sys.indexes (object_id int NOT NULL, name nvarchar(128), index_id int NOT NULL, type tinyint DEFAULT 2, type_desc nvarchar(60) DEFAULT 'NONCLUSTERED', is_unique bit DEFAULT 0, data_space_id int DEFAULT 1, ignore_dup_key bit DEFAULT 0, is_primary_key bit DEFAULT 0, is_unique_constraint bit DEFAULT 0, fill_factor tinyint DEFAULT 0, is_padded bit DEFAULT 0, is_disabled bit DEFAULT 0, is_hypothetical bit DEFAULT 0, allow_row_locks bit DEFAULT 1, allow_page_locks bit DEFAULT 1, optimize_for_sequential_key bit DEFAULT 0, has_filter bit DEFAULT 0, filter_definition nvarchar);
CREATE TABLE sys.index_columns (object_id int NOT NULL, index_id int NOT NULL, index_column_id int NOT NULL, column_id int NOT NULL, key_ordinal tinyint DEFAULT 0, partition_ordinal tinyint DEFAULT 0, is_descending_key bit DEFAULT 0, is_included_column bit DEFAULT 0);
CREATE TABLE sys.xml_indexes (object_id int NOT NULL, name nvarchar(128), index_id int NOT NULL, using_xml_index_id int, secondary_type char(1), secondary_type_desc nvarchar(60), xml_index_type tinyint DEFAULT 0, xml_index_type_description nvarchar(60), path_id int);
CREATE TABLE sys.spatial_index_tessellations (object_id int NOT NULL, index_id int NOT NULL, tessellation_scheme nvarchar(128), bounding_box_xmin float, bounding_box_ymin float, bounding_box_xmax float, bounding_box_ymax float);
CREATE TABLE sys.fulltext_catalogs (fulltext_catalog_id int NOT NULL, name nvarchar(128), is_default bit DEFAULT 0);
CREATE TABLE sys.fulltext_indexes (object_id int NOT NULL, unique_index_id int, fulltext_catalog_id int NOT NULL, is_enabled bit DEFAULT 1, change_tracking_state char(1) DEFAULT 'A', change_tracking_state_desc nvarchar(60) DEFAULT 'AUTO', stoplist_id int DEFAULT 0);
CREATE TABLE sys.fulltext_index_columns (object_id int NOT NULL, column_id int NOT NULL, type_column_id int, language_id int);
CREATE TABLE sys.sql_modules (object_id int NOT NULL, definition nvarchar, uses_ansi_nulls bit DEFAULT 1, uses_quoted_identifier bit DEFAULT 1, is_schema_bound bit DEFAULT 0, uses_database_collation bit DEFAULT 0, is_recompiled bit DEFAULT 0, null_on_null_input bit DEFAULT 0, execute_as_principal_id int);
CREATE TABLE sys.parameters (object_id int NOT NULL, name nvarchar(128), parameter_id int NOT NULL, system_type_id tinyint, user_type_id int, max_length smallint DEFAULT 4, precision tinyint DEFAULT 0, scale tinyint DEFAULT 0, is_output bit DEFAULT 0);
CREATE TABLE sys.sql_expression_dependencies (referencing_id int, referencing_minor_id int DEFAULT 0, referencing_class tinyint DEFAULT 1, is_schema_bound_reference bit DEFAULT 0, referenced_class tinyint DEFAULT 1, referenced_server_name nvarchar(128), referenced_database_name nvarchar(128), referenced_schema_name nvarchar(128), referenced_entity_name nvarchar(128), referenced_id int, referenced_minor_id int DEFAULT 0, is_caller_dependent bit DEFAULT 0, is_ambiguous bit DEFAULT 0);
CREATE TABLE sys.extended_properties (class tinyint, class_desc nvarchar(60), major_id int, minor_id int DEFAULT 0, name nvarchar(128), value sql_variant);
CREATE TABLE sys.periods (name nvarchar(128), period_type tinyint DEFAULT 1, period_type_desc nvarchar(60) DEFAULT 'SYSTEM_TIME_PERIOD', object_id int NOT NULL, start_column_id int, end_column_id int);
CREATE TABLE sys.data_spaces (name nvarchar(128), data_space_id int, type char(2) DEFAULT 'FG', type_desc nvarchar(60) DEFAULT 'ROWS_FILEGROUP', is_default bit DEFAULT 0, is_system bit DEFAULT 0);
CREATE TABLE sys.partition_functions (name nvarchar(128), function_id int NOT NULL, type char(2) DEFAULT 'R', fanout int, boundary_value_on_right bit DEFAULT 0);
CREATE TABLE sys.partition_parameters (function_id int NOT NULL, parameter_id int NOT NULL, system_type_id tinyint, max_length smallint DEFAULT 4, precision tinyint DEFAULT 0, scale tinyint DEFAULT 0, user_type_id int);
CREATE TABLE sys.partition_range_values (function_id int NOT NULL, boundary_id int NOT NULL, parameter_id int DEFAULT 1, value sql_variant, standin_base nvarchar(128) DEFAULT 'date');
CREATE TABLE sys.partition_schemes (name nvarchar(128), data_space_id int, type char(2) DEFAULT 'PS', function_id int NOT NULL);
CREATE TABLE sys.destination_data_spaces (partition_scheme_id int NOT NULL, destination_id int NOT NULL, data_space_id int);
CREATE TABLE sys.partitions (partition_id bigint, object_id int NOT NULL, index_id int NOT NULL, partition_number int DEFAULT 1, hobt_id bigint, rows bigint DEFAULT 0, data_compression tinyint DEFAULT 0, data_compression_desc nvarchar(60) DEFAULT 'NONE');
CREATE TABLE sys.allocation_units (allocation_unit_id bigint, type tinyint DEFAULT 1, type_desc nvarchar(60) DEFAULT 'IN_ROW_DATA', container_id bigint, total_pages bigint DEFAULT 0, used_pages bigint DEFAULT 0, data_pages bigint DEFAULT 0);
CREATE TABLE sys.dm_db_partition_stats (object_id int NOT NULL, index_id int NOT NULL, partition_number int DEFAULT 1, used_page_count bigint DEFAULT 0, row_count bigint DEFAULT 0);
CREATE TABLE sys.servers (server_id int, name nvarchar(128), product nvarchar(128), provider nvarchar(128), data_source nvarchar(4000), catalog nvarchar(128), is_linked bit DEFAULT 0, is_remote_login_enabled bit DEFAULT 0);
CREATE TABLE sys.server_principals (name nvarchar(128), principal_id int, type char(1), type_desc nvarchar(60), is_disabled bit DEFAULT 0, default_database_name nvarchar(128), is_fixed_role bit DEFAULT 0, sid varbinary(85));
CREATE VIEW sys.sql_logins AS SELECT name, principal_id, type, is_disabled, default_database_name, sid FROM server_principals WHERE type = 'S';
CREATE TABLE sys.server_role_members (role_principal_id int NOT NULL, member_principal_id int NOT NULL);
CREATE TABLE sys.databases (name nvarchar(128), database_id int NOT NULL, source_database_id int, owner_sid varbinary(85), state tinyint DEFAULT 0, state_desc nvarchar(60) DEFAULT 'ONLINE', collation_name nvarchar(128), compatibility_level tinyint DEFAULT 150, is_read_only bit DEFAULT 0,
  containment_desc nvarchar(60) DEFAULT 'NONE', recovery_model_desc nvarchar(60) DEFAULT 'FULL', page_verify_option_desc nvarchar(60) DEFAULT 'CHECKSUM', user_access_desc nvarchar(60) DEFAULT 'MULTI_USER', delayed_durability_desc nvarchar(60) DEFAULT 'DISABLED', snapshot_isolation_state_desc nvarchar(60) DEFAULT 'OFF', target_recovery_time_in_seconds int DEFAULT 60,
  is_encrypted bit DEFAULT 0, is_read_committed_snapshot_on bit DEFAULT 0, is_auto_close_on bit DEFAULT 0, is_auto_shrink_on bit DEFAULT 0, is_auto_create_stats_on bit DEFAULT 1, is_auto_create_stats_incremental_on bit DEFAULT 0, is_auto_update_stats_on bit DEFAULT 1, is_auto_update_stats_async_on bit DEFAULT 0,
  is_ansi_null_default_on bit DEFAULT 0, is_ansi_nulls_on bit DEFAULT 0, is_ansi_padding_on bit DEFAULT 0, is_ansi_warnings_on bit DEFAULT 0, is_arithabort_on bit DEFAULT 0, is_concat_null_yields_null_on bit DEFAULT 0, is_numeric_roundabort_on bit DEFAULT 0, is_quoted_identifier_on bit DEFAULT 0, is_recursive_triggers_on bit DEFAULT 0,
  is_cursor_close_on_commit_on bit DEFAULT 0, is_local_cursor_default bit DEFAULT 0, is_trustworthy_on bit DEFAULT 0, is_db_chaining_on bit DEFAULT 0, is_parameterization_forced bit DEFAULT 0, is_query_store_on bit DEFAULT 0, is_broker_enabled bit DEFAULT 1, is_honor_broker_priority_on bit DEFAULT 0, is_date_correlation_on bit DEFAULT 0, is_memory_optimized_elevate_to_snapshot_on bit DEFAULT 0);
CREATE TABLE sys.standin_standing (name nvarchar(128), object_id int NOT NULL, principal_id int, schema_id int DEFAULT 1, type char(2));
CREATE VIEW sys.objects AS
  SELECT name, object_id, principal_id, schema_id, 0 AS parent_object_id, type, is_ms_shipped FROM tables UNION ALL
  SELECT name, object_id, principal_id, schema_id, 0, 'V', is_ms_shipped FROM views UNION ALL
  SELECT name, object_id, principal_id, schema_id, 0, type, is_ms_shipped FROM procedures UNION ALL
  SELECT name, object_id, principal_id, schema_id, 0, type, is_ms_shipped FROM standin_functions UNION ALL
  SELECT t.name, t.object_id, NULL, coalesce((SELECT o.schema_id FROM tables o WHERE o.object_id = t.parent_id), (SELECT o.schema_id FROM views o WHERE o.object_id = t.parent_id)), t.parent_id, t.type, t.is_ms_shipped FROM triggers t WHERE t.parent_class = 1 UNION ALL
  SELECT name, object_id, principal_id, schema_id, 0, 'SO', is_ms_shipped FROM sequences UNION ALL
  SELECT name, object_id, principal_id, schema_id, 0, type, 0 FROM standin_standing UNION ALL
  SELECT name, object_id, principal_id, schema_id, 0, 'SN', is_ms_shipped FROM synonyms UNION ALL
  SELECT name, type_table_object_id, NULL, 4, 0, 'TT', 0 FROM table_types UNION ALL
  SELECT name, object_id, NULL, schema_id, parent_object_id, type, 0 FROM key_constraints UNION ALL
  SELECT name, object_id, NULL, schema_id, parent_object_id, 'C', 0 FROM check_constraints UNION ALL
  SELECT name, object_id, NULL, schema_id, parent_object_id, 'D', 0 FROM default_constraints UNION ALL
  SELECT name, object_id, NULL, schema_id, parent_object_id, 'F', 0 FROM foreign_keys;
INSERT INTO sys.schemas VALUES ('dbo', 1, 1), ('guest', 2, 2), ('INFORMATION_SCHEMA', 3, 3), ('sys', 4, 4);
INSERT INTO sys.database_principals (name, principal_id, type, type_desc, is_fixed_role) VALUES ('public', 0, 'R', 'DATABASE_ROLE', 0), ('dbo', 1, 'S', 'SQL_USER', 0), ('guest', 2, 'S', 'SQL_USER', 0),
  ('INFORMATION_SCHEMA', 3, 'S', 'SQL_USER', 0), ('sys', 4, 'S', 'SQL_USER', 0), ('db_owner', 16384, 'R', 'DATABASE_ROLE', 1), ('db_datareader', 16390, 'R', 'DATABASE_ROLE', 1);
INSERT INTO sys.data_spaces (name, data_space_id, is_default) VALUES ('PRIMARY', 1, 1);
INSERT INTO sys.servers (server_id, name, product, is_linked) VALUES (0, 'STANDIN', 'SQL Server', 0);
INSERT INTO sys.types (name, system_type_id, user_type_id, max_length, precision, scale) VALUES ('image', 34, 34, 16, 0, 0), ('text', 35, 35, 16, 0, 0), ('uniqueidentifier', 36, 36, 16, 0, 0), ('date', 40, 40, 3, 10, 0), ('time', 41, 41, 5, 16, 7), ('datetime2', 42, 42, 8, 27, 7), ('datetimeoffset', 43, 43, 10, 34, 7),
  ('tinyint', 48, 48, 1, 3, 0), ('smallint', 52, 52, 2, 5, 0), ('int', 56, 56, 4, 10, 0), ('smalldatetime', 58, 58, 4, 16, 0), ('real', 59, 59, 4, 24, 0), ('money', 60, 60, 8, 19, 4), ('datetime', 61, 61, 8, 23, 3), ('float', 62, 62, 8, 53, 0), ('sql_variant', 98, 98, 8016, 0, 0), ('ntext', 99, 99, 16, 0, 0),
  ('bit', 104, 104, 1, 1, 0), ('decimal', 106, 106, 17, 38, 38), ('numeric', 108, 108, 17, 38, 38), ('smallmoney', 122, 122, 4, 10, 4), ('bigint', 127, 127, 8, 19, 0), ('varbinary', 165, 165, 8000, 0, 0), ('varchar', 167, 167, 8000, 0, 0), ('binary', 173, 173, 8000, 0, 0), ('char', 175, 175, 8000, 0, 0),
  ('timestamp', 189, 189, 8, 0, 0), ('nvarchar', 231, 231, 8000, 0, 0), ('sysname', 231, 256, 256, 0, 0), ('nchar', 239, 239, 8000, 0, 0), ('hierarchyid', 240, 128, 892, 0, 0), ('geometry', 240, 129, -1, 0, 0), ('geography', 240, 130, -1, 0, 0), ('xml', 241, 241, -1, 0, 0);
CREATE TABLE sys.hash_indexes (object_id int NOT NULL, name nvarchar(128), index_id int NOT NULL, bucket_count int);
CREATE TABLE sys.stats (object_id int NOT NULL, name nvarchar(128), stats_id int NOT NULL, auto_created bit DEFAULT 0, user_created bit DEFAULT 0, no_recompute bit DEFAULT 0, has_filter bit DEFAULT 0, filter_definition nvarchar, is_temporary bit DEFAULT 0, is_incremental bit DEFAULT 0);
CREATE TABLE sys.stats_columns (object_id int NOT NULL, stats_id int NOT NULL, stats_column_id int NOT NULL, column_id int NOT NULL);
CREATE TABLE sys.xml_schema_collections (xml_collection_id int NOT NULL, schema_id int, principal_id int, name nvarchar(128));
CREATE TABLE sys.standin_xml_schemas (schema_name nvarchar(128), name nvarchar(128), text nvarchar);
CREATE TABLE sys.security_policies (object_id int NOT NULL, name nvarchar(128), schema_id int, is_ms_shipped bit DEFAULT 0, is_enabled bit DEFAULT 1, is_not_for_replication bit DEFAULT 0, is_schema_bound bit DEFAULT 1);
CREATE TABLE sys.security_predicates (object_id int NOT NULL, security_predicate_id int, target_object_id int, predicate_definition nvarchar, predicate_type int DEFAULT 0, predicate_type_desc nvarchar(60) DEFAULT 'FILTER', operation int, operation_desc nvarchar(60));
CREATE TABLE sys.assemblies (name nvarchar(128), assembly_id int, is_user_defined bit DEFAULT 1);
CREATE TABLE sys.column_master_keys (name nvarchar(128), column_master_key_id int);
CREATE TABLE sys.column_encryption_keys (name nvarchar(128), column_encryption_key_id int);
CREATE TABLE sys.certificates (name nvarchar(128), certificate_id int, sid varbinary(85));
CREATE TABLE sys.symmetric_keys (name nvarchar(128), symmetric_key_id int);
CREATE TABLE sys.asymmetric_keys (name nvarchar(128), asymmetric_key_id int, sid varbinary(85));
CREATE TABLE sys.external_data_sources (name nvarchar(128), data_source_id int);
CREATE TABLE sys.external_file_formats (name nvarchar(128), file_format_id int);
CREATE TABLE sys.plan_guides (name nvarchar(128), plan_guide_id int);
CREATE TABLE sys.fulltext_stoplists (name nvarchar(128), stoplist_id int NOT NULL);
CREATE TABLE sys.change_tracking_tables (object_id int NOT NULL, is_track_columns_updated_on bit DEFAULT 0, min_valid_version bigint, begin_version bigint, cleanup_version bigint);
CREATE TABLE sys.change_tracking_databases (database_id int NOT NULL, is_auto_cleanup_on bit DEFAULT 1, retention_period int DEFAULT 2, retention_period_units tinyint DEFAULT 3, retention_period_units_desc nvarchar(60) DEFAULT 'DAYS', max_cleanup_version bigint);
CREATE TABLE sys.numbered_procedures (object_id int NOT NULL, procedure_number smallint, definition nvarchar);
CREATE TABLE sys.filegroups (name nvarchar(128), data_space_id int, type char(2) DEFAULT 'FG', type_desc nvarchar(60) DEFAULT 'ROWS_FILEGROUP', is_default bit DEFAULT 0, is_system bit DEFAULT 0, log_filegroup_id int, is_read_only bit DEFAULT 0, is_autogrow_all_files bit DEFAULT 0);
CREATE TABLE sys.database_files (file_id int NOT NULL, type tinyint DEFAULT 0, type_desc nvarchar(60) DEFAULT 'ROWS', data_space_id int, name nvarchar(128), physical_name nvarchar(260), size int DEFAULT 1024);
CREATE TABLE sys.fulltext_stopwords (stoplist_id int NOT NULL, stopword nvarchar(64), language nvarchar(128), language_id int);
CREATE TABLE sys.selective_xml_index_paths (object_id int NOT NULL, index_id int NOT NULL, path_id int NOT NULL, path nvarchar(4000), name nvarchar(128), path_type tinyint DEFAULT 0, path_type_desc nvarchar(60) DEFAULT 'XQUERY', xml_component_id int, xquery_type_description nvarchar(4000), is_xquery_type_inferred bit DEFAULT 0, xquery_max_length smallint, is_xquery_max_length_inferred bit DEFAULT 0, is_node bit DEFAULT 0, system_type_id tinyint, user_type_id int, max_length smallint, precision tinyint, scale tinyint, collation_name nvarchar(128), is_singleton bit DEFAULT 0);
CREATE TABLE sys.selective_xml_index_namespaces (object_id int NOT NULL, index_id int NOT NULL, is_default_uri bit DEFAULT 0, uri nvarchar(4000), prefix nvarchar(4000));
CREATE TABLE sys.service_message_types (name nvarchar(128), message_type_id int);
CREATE TABLE sys.service_contracts (name nvarchar(128), service_contract_id int);
CREATE TABLE sys.services (name nvarchar(128), service_id int);
CREATE TABLE sys.database_audit_specifications (name nvarchar(128), database_specification_id int);
CREATE TABLE sys.database_scoped_credentials (name nvarchar(128), credential_id int);
INSERT INTO sys.filegroups (name, data_space_id, is_default) VALUES ('PRIMARY', 1, 1);
INSERT INTO sys.database_files (file_id, type, type_desc, data_space_id, name, physical_name) VALUES (1, 0, 'ROWS', 1, 'first', 'first.mdf'), (2, 1, 'LOG', 0, 'log', 'log.ldf');
