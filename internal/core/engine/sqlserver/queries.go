package sqlserver

// The queries of a survey, each over one catalogue view.

import (
	"strings"

	"echo-atlas/internal/core/engine"
)

// The catalogue queries. They use documented columns that SQL Server 2016 has, declare the types of what
// they compute, and keep to what both Transact-SQL and the stand-in understand: no prefixes on strings, no
// APPLY, no hints, no names of three parts. Snapshot isolation is not to be had for catalogue views; each
// query is consistent in itself, and objects that went meanwhile are left out.
const (
	greetQuery = `SELECT CAST(SERVERPROPERTY('ProductVersion') AS nvarchar(128)), CAST(SUSER_SNAME() AS nvarchar(128)), CAST(SERVERPROPERTY('EngineEdition') AS int), CAST(SERVERPROPERTY('Edition') AS nvarchar(128))`

	// What the user may do, in each database anew: NULL where the server does not say. ALTER and INSERT would be more than a survey needs.
	rightsQuery       = `SELECT CAST(HAS_PERMS_BY_NAME(QUOTENAME(DB_NAME()), 'DATABASE', 'VIEW DEFINITION') AS int), CAST(HAS_PERMS_BY_NAME(QUOTENAME(DB_NAME()), 'DATABASE', 'ALTER') AS int), CAST(HAS_PERMS_BY_NAME(QUOTENAME(DB_NAME()), 'DATABASE', 'INSERT') AS int)`
	serverRightsQuery = `SELECT CAST(HAS_PERMS_BY_NAME(NULL, NULL, 'VIEW ANY DEFINITION') AS int)`

	databasesQuery  = `SELECT name, state_desc, CAST(HAS_DBACCESS(name) AS int) FROM sys.databases ORDER BY name`
	schemasQuery    = `SELECT s.schema_id, s.name, p.name FROM sys.schemas s LEFT JOIN sys.database_principals p ON p.principal_id = s.principal_id`
	principalsQuery = `SELECT principal_id, name, [type], default_schema_name, owning_principal_id, is_fixed_role, authentication_type FROM sys.database_principals ORDER BY principal_id`
	membersQuery    = `SELECT role_principal_id, member_principal_id FROM sys.database_role_members`
	objectsQuery    = `SELECT o.object_id, o.schema_id, o.name, o.type, o.parent_object_id, o.principal_id FROM sys.objects o WHERE o.is_ms_shipped = 0 AND (o.type IN ('U', 'V', 'P', 'FN', 'IF', 'TF', 'TR', 'SO', 'SN', 'TT', 'R') OR o.type = 'D' AND o.parent_object_id = 0)`
	tablesQuery     = `SELECT object_id, is_memory_optimized, durability_desc, temporal_type, history_table_id, lock_escalation_desc, is_external, is_filetable, lob_data_space_id FROM sys.tables`
	typesQuery      = `SELECT user_type_id, name, schema_id, system_type_id, max_length, precision, scale, is_nullable, is_user_defined, is_table_type, is_assembly_type, rule_object_id, default_object_id FROM sys.types`
	tableTypesQuery = `SELECT type_table_object_id, user_type_id, name, schema_id FROM sys.table_types`
	columnsQuery    = `SELECT c.object_id, c.column_id, c.name, c.user_type_id, c.max_length, c.precision, c.scale, c.collation_name, c.is_nullable, c.is_rowguidcol, c.is_identity, c.is_computed, c.is_sparse, c.generated_always_type, c.is_hidden, c.is_column_set, c.is_filestream, c.is_xml_document, c.xml_collection_id, c.rule_object_id, c.default_object_id
FROM sys.columns c JOIN sys.objects o ON o.object_id = c.object_id WHERE o.is_ms_shipped = 0 AND o.type IN ('U', 'V', 'TT') ORDER BY c.object_id, c.column_id`
	identitiesQuery  = `SELECT object_id, column_id, CAST(seed_value AS nvarchar(40)), CAST(increment_value AS nvarchar(40)), is_not_for_replication FROM sys.identity_columns`
	computedQuery    = `SELECT object_id, column_id, definition, is_persisted FROM sys.computed_columns`
	masksQuery       = `SELECT object_id, column_id, masking_function FROM sys.masked_columns WHERE is_masked = 1`
	defaultsQuery    = `SELECT parent_object_id, parent_column_id, name, definition, is_system_named, object_id FROM sys.default_constraints`
	keysQuery        = `SELECT parent_object_id, name, [type], unique_index_id, is_system_named, object_id FROM sys.key_constraints`
	checksQuery      = `SELECT parent_object_id, name, definition, is_disabled, is_not_trusted, is_system_named, object_id, is_not_for_replication FROM sys.check_constraints`
	foreignKeysQuery = `SELECT object_id, parent_object_id, name, referenced_object_id, delete_referential_action_desc, update_referential_action_desc, is_disabled, is_not_trusted, is_system_named, key_index_id, is_not_for_replication FROM sys.foreign_keys`
	foreignColumns   = `SELECT constraint_object_id, constraint_column_id, parent_object_id, parent_column_id, referenced_object_id, referenced_column_id FROM sys.foreign_key_columns ORDER BY constraint_object_id, constraint_column_id`
	indexesQuery     = `SELECT i.object_id, i.index_id, i.name, i.type, i.is_unique, d.name, d.type, i.ignore_dup_key, i.is_primary_key, i.is_unique_constraint, i.fill_factor, i.is_padded, i.is_disabled, i.has_filter, i.filter_definition, i.is_hypothetical, i.allow_row_locks, i.allow_page_locks, s.no_recompute
FROM sys.indexes i LEFT JOIN sys.data_spaces d ON d.data_space_id = i.data_space_id LEFT JOIN sys.stats s ON s.object_id = i.object_id AND s.stats_id = i.index_id`
	indexColumns    = `SELECT object_id, index_id, column_id, key_ordinal, is_descending_key, is_included_column, partition_ordinal FROM sys.index_columns ORDER BY object_id, index_id, key_ordinal, index_column_id`
	xmlIndexesQuery = `SELECT x.object_id, x.index_id, p.name, x.secondary_type_desc, x.xml_index_type, x.path_id FROM sys.xml_indexes x LEFT JOIN sys.indexes p ON p.object_id = x.object_id AND p.index_id = x.using_xml_index_id`
	spatialQuery    = `SELECT object_id, index_id, tessellation_scheme, bounding_box_xmin, bounding_box_ymin, bounding_box_xmax, bounding_box_ymax FROM sys.spatial_index_tessellations`
	fullTextQuery   = `SELECT f.object_id, i.name, c.name, f.is_enabled, f.change_tracking_state_desc, f.stoplist_id FROM sys.fulltext_indexes f JOIN sys.indexes i ON i.object_id = f.object_id AND i.index_id = f.unique_index_id LEFT JOIN sys.fulltext_catalogs c ON c.fulltext_catalog_id = f.fulltext_catalog_id`
	fullTextColumns = `SELECT object_id, column_id, language_id, type_column_id FROM sys.fulltext_index_columns ORDER BY object_id, column_id`
	stoplistsQuery  = `SELECT stoplist_id, name FROM sys.fulltext_stoplists ORDER BY stoplist_id`
	stopwordsQuery  = `SELECT stoplist_id, stopword, language_id FROM sys.fulltext_stopwords WHERE stoplist_id > 0 ORDER BY stoplist_id, language_id, stopword`
	catalogsQuery   = `SELECT name, is_default FROM sys.fulltext_catalogs`
	viewsQuery      = `SELECT object_id, with_check_option FROM sys.views`
	modulesQuery    = `SELECT object_id, definition, uses_ansi_nulls, uses_quoted_identifier, is_schema_bound FROM sys.sql_modules`
	triggersQuery   = `SELECT object_id, name, parent_class, parent_id, is_disabled, is_instead_of_trigger FROM sys.triggers WHERE is_ms_shipped = 0`
	triggerEvents   = `SELECT object_id, type_desc, is_first, is_last FROM sys.trigger_events ORDER BY object_id, [type]`
	parametersQuery = `SELECT object_id, parameter_id, name, user_type_id, max_length, precision, scale, is_output FROM sys.parameters ORDER BY object_id, parameter_id`
	sequencesQuery  = `SELECT object_id, user_type_id, max_length_of, precision, scale, CAST(start_value AS nvarchar(40)), CAST(increment AS nvarchar(40)), CAST(minimum_value AS nvarchar(40)), CAST(maximum_value AS nvarchar(40)), is_cycling, is_cached, cache_size
FROM (SELECT object_id, user_type_id, 0 AS max_length_of, precision, scale, start_value, increment, minimum_value, maximum_value, is_cycling, is_cached, cache_size FROM sys.sequences) s`
	synonymsQuery  = `SELECT object_id, base_object_name FROM sys.synonyms`
	periodsQuery   = `SELECT object_id, start_column_id, end_column_id FROM sys.periods`
	functionsQuery = `SELECT f.function_id, f.name, f.boundary_value_on_right, p.user_type_id, p.max_length, p.precision, p.scale FROM sys.partition_functions f JOIN sys.partition_parameters p ON p.function_id = f.function_id`
	// Boundaries are variants: each is written in the way that loses nothing of its base type (documentation, "CAST and CONVERT").
	rangesQuery = `SELECT function_id, CASE WHEN value IS NULL THEN NULL
  WHEN CAST(SQL_VARIANT_PROPERTY(value, 'BaseType') AS nvarchar(128)) IN ('datetime', 'smalldatetime') THEN CONVERT(nvarchar(4000), CAST(value AS datetime), 126)
  WHEN CAST(SQL_VARIANT_PROPERTY(value, 'BaseType') AS nvarchar(128)) IN ('float', 'real') THEN CONVERT(nvarchar(4000), CAST(value AS float), 3)
  WHEN CAST(SQL_VARIANT_PROPERTY(value, 'BaseType') AS nvarchar(128)) IN ('money', 'smallmoney') THEN CONVERT(nvarchar(4000), CAST(value AS money), 2)
  WHEN CAST(SQL_VARIANT_PROPERTY(value, 'BaseType') AS nvarchar(128)) IN ('binary', 'varbinary') THEN CONVERT(nvarchar(4000), CAST(value AS varbinary(8000)), 1)
  ELSE CAST(value AS nvarchar(4000)) END AS boundary, CAST(SQL_VARIANT_PROPERTY(value, 'BaseType') AS nvarchar(128))
FROM sys.partition_range_values ORDER BY function_id, boundary_id`
	schemesQuery      = `SELECT s.data_space_id, s.name, f.name FROM sys.partition_schemes s JOIN sys.partition_functions f ON f.function_id = s.function_id`
	destinationsQuery = `SELECT d.partition_scheme_id, s.name FROM sys.destination_data_spaces d JOIN sys.data_spaces s ON s.data_space_id = d.data_space_id ORDER BY d.partition_scheme_id, d.destination_id`
	propertiesQuery   = `SELECT class, major_id, minor_id, name, CAST(value AS nvarchar(4000)) FROM sys.extended_properties WHERE class IN (0, 1, 2, 3, 6, 7)`
	signersQuery      = `SELECT p.principal_id, c.name FROM sys.database_principals p JOIN sys.certificates c ON c.sid = p.sid WHERE p.[type] = 'C'`
	keyholdersQuery   = `SELECT p.principal_id, k.name FROM sys.database_principals p JOIN sys.asymmetric_keys k ON k.sid = p.sid WHERE p.[type] = 'K'`
	permissionsQuery  = `SELECT d.class, d.major_id, d.minor_id, p.name, d.permission_name, d.state FROM sys.database_permissions d JOIN sys.database_principals p ON p.principal_id = d.grantee_principal_id WHERE d.class IN (0, 1, 3, 6)`
	needsQuery        = `SELECT referencing_id, referencing_class, referenced_schema_name, referenced_entity_name, referenced_id, referenced_minor_id, is_ambiguous, referenced_database_name, referenced_server_name, is_caller_dependent FROM sys.sql_expression_dependencies`
	sizesQuery        = `SELECT object_id, index_id, SUM(used_page_count) AS pages, SUM(CASE WHEN index_id < 2 THEN row_count ELSE 0 END) AS counted FROM sys.dm_db_partition_stats GROUP BY object_id, index_id ORDER BY object_id, index_id`

	// The same without the right to see the state of the database: units of rows in a row have the number of their heap or index,
	// those of large values the number of the partition (documentation, "sys.allocation_units").
	unitsQuery = `SELECT p.object_id, p.index_id, SUM(a.used_pages) AS pages, SUM(CASE WHEN p.index_id < 2 AND a.type = 1 THEN p.rows ELSE 0 END) AS counted
FROM sys.partitions p JOIN sys.allocation_units a ON (a.type IN (1, 3) AND a.container_id = p.hobt_id) OR (a.type = 2 AND a.container_id = p.partition_id) GROUP BY p.object_id, p.index_id ORDER BY p.object_id, p.index_id`
	// What one module refers to, for those who may not see all dependencies at once.
	referencedQuery = `SELECT referenced_schema_name, referenced_entity_name, referenced_id, referenced_minor_id, is_ambiguous, referenced_database_name, referenced_server_name, is_caller_dependent FROM sys.dm_sql_referenced_entities('%s', 'OBJECT')`

	// What is met more rarely.
	fileGroupsQuery  = `SELECT data_space_id, name, [type], is_default, is_read_only, is_autogrow_all_files FROM sys.filegroups ORDER BY data_space_id`
	filesQuery       = `SELECT data_space_id, name, [type] FROM sys.database_files WHERE data_space_id > 0 ORDER BY data_space_id, file_id`
	trackedQuery     = `SELECT object_id, is_track_columns_updated_on FROM sys.change_tracking_tables`
	numberedQuery    = `SELECT object_id, procedure_number, definition FROM sys.numbered_procedures ORDER BY object_id, procedure_number`
	xmlPathsQuery    = `SELECT p.object_id, p.index_id, p.path_id, p.name, p.path, p.path_type_desc, p.xquery_type_description, p.is_xquery_type_inferred, p.xquery_max_length, p.is_xquery_max_length_inferred, p.is_node, p.user_type_id, p.max_length, p.[precision], p.scale, p.is_singleton FROM sys.selective_xml_index_paths p ORDER BY p.object_id, p.index_id, p.path_id`
	xmlSpacesQuery   = `SELECT object_id, index_id, is_default_uri, uri, prefix FROM sys.selective_xml_index_namespaces ORDER BY object_id, index_id, prefix`
	spacesQuery      = `SELECT data_space_id, name FROM sys.data_spaces`
	compressionQuery = `SELECT object_id, index_id, partition_number, data_compression_desc FROM sys.partitions ORDER BY object_id, index_id, partition_number`
	retentionQuery   = `SELECT object_id, history_retention_period, history_retention_period_unit_desc FROM sys.tables WHERE temporal_type = 2 AND history_retention_period > 0`
	sequentialQuery  = `SELECT object_id, index_id FROM sys.indexes WHERE optimize_for_sequential_key = 1`
	statisticsQuery  = `SELECT s.object_id, s.stats_id, s.name, s.no_recompute, s.has_filter, s.filter_definition, s.is_incremental, c.column_id FROM sys.stats s JOIN sys.stats_columns c ON c.object_id = s.object_id AND c.stats_id = s.stats_id WHERE s.user_created = 1 ORDER BY s.object_id, s.stats_id, c.stats_column_id`
	collectionsQuery = `SELECT c.xml_collection_id, s.name, c.name FROM sys.xml_schema_collections c JOIN sys.schemas s ON s.schema_id = c.schema_id WHERE s.name <> 'sys' ORDER BY s.name, c.name`
	collectionQuery  = `SELECT CAST(XML_SCHEMA_NAMESPACE('%s', '%s') AS nvarchar(max))`
	policiesQuery    = `SELECT object_id, schema_id, name, is_enabled, is_schema_bound, is_not_for_replication FROM sys.security_policies`
	predicatesQuery  = `SELECT object_id, target_object_id, predicate_definition, predicate_type_desc, operation_desc FROM sys.security_predicates ORDER BY object_id, security_predicate_id`
	encryptedQuery   = `SELECT object_id, column_id FROM sys.columns WHERE encryption_type IS NOT NULL`
	ledgerQuery      = `SELECT object_id, ledger_type_desc FROM sys.tables WHERE ledger_type > 0`
	graphQuery       = `SELECT object_id, is_node FROM sys.tables WHERE is_node = 1 OR is_edge = 1`

	linkedQuery       = `SELECT name, product, provider, data_source, catalog FROM sys.servers WHERE is_linked = 1`
	loginsQuery       = `SELECT principal_id, name, [type], is_disabled, default_database_name, CONVERT(nvarchar(200), sid, 1) FROM sys.server_principals WHERE [type] IN ('S', 'U', 'G', 'R', 'E', 'X') AND is_fixed_role = 0 AND principal_id > 2 ORDER BY principal_id`
	sqlLoginsQuery    = `SELECT principal_id, name, [type], is_disabled, default_database_name, CONVERT(nvarchar(200), sid, 1) FROM sys.sql_logins WHERE principal_id > 2 ORDER BY principal_id`
	loginRolesQuery   = `SELECT r.name, m.name FROM sys.server_role_members x JOIN sys.server_principals r ON r.principal_id = x.role_principal_id JOIN sys.server_principals m ON m.principal_id = x.member_principal_id ORDER BY 1, 2`
	allDatabasesQuery = `SELECT name, collation_name, compatibility_level, containment_desc, recovery_model_desc, page_verify_option_desc, user_access_desc, delayed_durability_desc, snapshot_isolation_state_desc, target_recovery_time_in_seconds, is_read_only, is_encrypted, is_read_committed_snapshot_on, is_auto_close_on, is_auto_shrink_on, is_auto_create_stats_on, is_auto_create_stats_incremental_on, is_auto_update_stats_on, is_auto_update_stats_async_on, is_ansi_null_default_on, is_ansi_nulls_on, is_ansi_padding_on, is_ansi_warnings_on, is_arithabort_on, is_concat_null_yields_null_on, is_numeric_roundabort_on, is_quoted_identifier_on, is_recursive_triggers_on, is_cursor_close_on_commit_on, is_local_cursor_default, is_trustworthy_on, is_db_chaining_on, is_parameterization_forced, is_query_store_on, is_broker_enabled, is_honor_broker_priority_on, is_date_correlation_on, is_memory_optimized_elevate_to_snapshot_on FROM sys.databases ORDER BY name`
	ownersQuery       = `SELECT d.name, p.name FROM sys.databases d JOIN sys.server_principals p ON p.sid = d.owner_sid ORDER BY d.name`
	trackingQuery     = `SELECT d.name, t.is_auto_cleanup_on, t.retention_period, t.retention_period_units_desc FROM sys.change_tracking_databases t JOIN sys.databases d ON d.database_id = t.database_id ORDER BY d.name`
)

// unread are the kinds that are counted, and not read (documentation: the views of the same names).
var unread = []struct{ what, sql string }{
	{"objects of assemblies, queues and other objects", `SELECT COUNT(*) FROM sys.objects WHERE is_ms_shipped = 0 AND [type] IN ('AF', 'PC', 'FS', 'FT', 'TA', 'SQ', 'X', 'RF', 'EC')`},
	{"assemblies", `SELECT COUNT(*) FROM sys.assemblies WHERE is_user_defined = 1`},
	{"column master keys and column encryption keys", `SELECT (SELECT COUNT(*) FROM sys.column_master_keys) + (SELECT COUNT(*) FROM sys.column_encryption_keys)`},
	{"certificates", `SELECT COUNT(*) FROM sys.certificates`},
	{"symmetric and asymmetric keys", `SELECT (SELECT COUNT(*) FROM sys.symmetric_keys) + (SELECT COUNT(*) FROM sys.asymmetric_keys)`},
	{"external data sources and file formats", `SELECT (SELECT COUNT(*) FROM sys.external_data_sources) + (SELECT COUNT(*) FROM sys.external_file_formats)`},
	{"plan guides", `SELECT COUNT(*) FROM sys.plan_guides`},
	{"service broker's message types, contracts and services", `SELECT (SELECT COUNT(*) FROM sys.service_message_types WHERE message_type_id > 65535) + (SELECT COUNT(*) FROM sys.service_contracts WHERE service_contract_id > 65535) + (SELECT COUNT(*) FROM sys.services WHERE service_id > 65535)`},
	{"database audit specifications", `SELECT COUNT(*) FROM sys.database_audit_specifications`},
	{"credentials of the database", `SELECT COUNT(*) FROM sys.database_scoped_credentials`},
}

// Queries returns what a survey sends.
func (Engine) Queries() []string {
	all := []string{sessionSettings, greetQuery, databasesQuery, "-- for each database:\n" + rightsQuery}
	for _, j := range new(reader).jobs() {
		all = append(all, j.sql)
	}
	all = append(all, strings.NewReplacer("'%s', '%s'", "'[schema]', '[collection]'").Replace(collectionQuery))
	all = append(all, "-- where those of dependencies and sizes are refused:\n"+unitsQuery, strings.Replace(referencedQuery, "%s", "[schema].[module]", 1))
	return append(all, "-- what belongs to no database ("+engine.ServerLevel+"):\n"+serverRightsQuery, allDatabasesQuery, ownersQuery, trackingQuery, linkedQuery, loginsQuery, loginRolesQuery, "-- and of Azure SQL Database:\n"+sqlLoginsQuery)
}
