package sqlserver

// The queries of a survey, each over one catalogue view.

import "echo-atlas/internal/core/engine"

// The catalogue queries. They use documented columns that SQL Server 2016 has, declare the types of what
// they compute, and keep to what both Transact-SQL and the stand-in understand: no prefixes on strings, no
// APPLY, no hints, no names of three parts. Snapshot isolation is not to be had for catalogue views; each
// query is consistent in itself, and objects that went meanwhile are left out.
const (
	greetQuery = `SELECT CAST(SERVERPROPERTY('ProductVersion') AS nvarchar(128)), CAST(SUSER_SNAME() AS nvarchar(128)), CAST(HAS_PERMS_BY_NAME(DB_NAME(), 'DATABASE', 'VIEW DEFINITION') AS nvarchar(10))`

	databasesQuery  = `SELECT name, state_desc FROM sys.databases ORDER BY name`
	schemasQuery    = `SELECT s.schema_id, s.name, p.name FROM sys.schemas s LEFT JOIN sys.database_principals p ON p.principal_id = s.principal_id`
	principalsQuery = `SELECT principal_id, name, type, default_schema_name, owning_principal_id, is_fixed_role FROM sys.database_principals`
	membersQuery    = `SELECT role_principal_id, member_principal_id FROM sys.database_role_members`
	objectsQuery    = `SELECT o.object_id, o.schema_id, o.name, o.type, o.parent_object_id, o.principal_id FROM sys.objects o WHERE o.is_ms_shipped = 0 AND o.type IN ('U', 'V', 'P', 'FN', 'IF', 'TF', 'TR', 'SO', 'SN', 'TT', 'FS', 'FT', 'AF', 'PC')`
	tablesQuery     = `SELECT object_id, is_memory_optimized, durability_desc, temporal_type, history_table_id, lock_escalation_desc FROM sys.tables`
	typesQuery      = `SELECT user_type_id, name, schema_id, system_type_id, max_length, precision, scale, is_nullable, is_user_defined, is_table_type FROM sys.types`
	tableTypesQuery = `SELECT type_table_object_id, user_type_id, name, schema_id FROM sys.table_types`
	columnsQuery    = `SELECT c.object_id, c.column_id, c.name, c.user_type_id, c.max_length, c.precision, c.scale, c.collation_name, c.is_nullable, c.is_rowguidcol, c.is_identity, c.is_computed, c.is_sparse, c.generated_always_type, c.is_hidden
FROM sys.columns c JOIN sys.objects o ON o.object_id = c.object_id WHERE o.is_ms_shipped = 0 AND o.type IN ('U', 'V', 'TT') ORDER BY c.object_id, c.column_id`
	identitiesQuery  = `SELECT object_id, column_id, CAST(seed_value AS nvarchar(40)), CAST(increment_value AS nvarchar(40)), is_not_for_replication FROM sys.identity_columns`
	computedQuery    = `SELECT object_id, column_id, definition, is_persisted FROM sys.computed_columns`
	masksQuery       = `SELECT object_id, column_id, masking_function FROM sys.masked_columns WHERE is_masked = 1`
	defaultsQuery    = `SELECT parent_object_id, parent_column_id, name, definition, is_system_named FROM sys.default_constraints`
	keysQuery        = `SELECT parent_object_id, name, type, unique_index_id, is_system_named, object_id FROM sys.key_constraints`
	checksQuery      = `SELECT parent_object_id, name, definition, is_disabled, is_not_trusted, is_system_named, object_id FROM sys.check_constraints`
	foreignKeysQuery = `SELECT object_id, parent_object_id, name, referenced_object_id, delete_referential_action_desc, update_referential_action_desc, is_disabled, is_not_trusted, is_system_named FROM sys.foreign_keys`
	foreignColumns   = `SELECT constraint_object_id, constraint_column_id, parent_object_id, parent_column_id, referenced_object_id, referenced_column_id FROM sys.foreign_key_columns ORDER BY constraint_object_id, constraint_column_id`
	indexesQuery     = `SELECT i.object_id, i.index_id, i.name, i.type, i.is_unique, d.name, d.type, i.ignore_dup_key, i.is_primary_key, i.is_unique_constraint, i.fill_factor, i.is_padded, i.is_disabled, i.has_filter, i.filter_definition, i.is_hypothetical
FROM sys.indexes i LEFT JOIN sys.data_spaces d ON d.data_space_id = i.data_space_id`
	indexColumns    = `SELECT object_id, index_id, column_id, key_ordinal, is_descending_key, is_included_column, partition_ordinal FROM sys.index_columns ORDER BY object_id, index_id, key_ordinal, index_column_id`
	xmlIndexesQuery = `SELECT x.object_id, x.index_id, p.name, x.secondary_type_desc FROM sys.xml_indexes x LEFT JOIN sys.indexes p ON p.object_id = x.object_id AND p.index_id = x.using_xml_index_id`
	spatialQuery    = `SELECT object_id, index_id, tessellation_scheme FROM sys.spatial_index_tessellations`
	fullTextQuery   = `SELECT f.object_id, i.name, c.name, f.is_enabled FROM sys.fulltext_indexes f JOIN sys.indexes i ON i.object_id = f.object_id AND i.index_id = f.unique_index_id LEFT JOIN sys.fulltext_catalogs c ON c.fulltext_catalog_id = f.fulltext_catalog_id`
	fullTextColumns = `SELECT object_id, column_id, language_id FROM sys.fulltext_index_columns ORDER BY object_id, column_id`
	catalogsQuery   = `SELECT name, is_default FROM sys.fulltext_catalogs`
	viewsQuery      = `SELECT object_id, with_check_option FROM sys.views`
	modulesQuery    = `SELECT object_id, definition, uses_ansi_nulls, uses_quoted_identifier, is_schema_bound FROM sys.sql_modules`
	triggersQuery   = `SELECT object_id, name, parent_class, parent_id, is_disabled, is_instead_of_trigger FROM sys.triggers WHERE is_ms_shipped = 0`
	triggerEvents   = `SELECT object_id, type_desc FROM sys.trigger_events ORDER BY object_id, type`
	parametersQuery = `SELECT object_id, parameter_id, name, user_type_id, max_length, precision, scale, is_output FROM sys.parameters ORDER BY object_id, parameter_id`
	sequencesQuery  = `SELECT object_id, user_type_id, max_length_of, precision, scale, CAST(start_value AS nvarchar(40)), CAST(increment AS nvarchar(40)), CAST(minimum_value AS nvarchar(40)), CAST(maximum_value AS nvarchar(40)), is_cycling, is_cached, cache_size
FROM (SELECT object_id, user_type_id, 0 AS max_length_of, precision, scale, start_value, increment, minimum_value, maximum_value, is_cycling, is_cached, cache_size FROM sys.sequences) s`
	synonymsQuery     = `SELECT object_id, base_object_name FROM sys.synonyms`
	periodsQuery      = `SELECT object_id, start_column_id, end_column_id FROM sys.periods`
	functionsQuery    = `SELECT f.function_id, f.name, f.boundary_value_on_right, p.user_type_id, p.max_length, p.precision, p.scale FROM sys.partition_functions f JOIN sys.partition_parameters p ON p.function_id = f.function_id`
	rangesQuery       = `SELECT function_id, CAST(value AS nvarchar(4000)) FROM sys.partition_range_values ORDER BY function_id, boundary_id`
	schemesQuery      = `SELECT s.data_space_id, s.name, f.name FROM sys.partition_schemes s JOIN sys.partition_functions f ON f.function_id = s.function_id`
	destinationsQuery = `SELECT d.partition_scheme_id, s.name FROM sys.destination_data_spaces d JOIN sys.data_spaces s ON s.data_space_id = d.data_space_id ORDER BY d.partition_scheme_id, d.destination_id`
	propertiesQuery   = `SELECT class, major_id, minor_id, name, CAST(value AS nvarchar(4000)) FROM sys.extended_properties WHERE class IN (0, 1, 3, 6, 7)`
	permissionsQuery  = `SELECT d.class, d.major_id, d.minor_id, p.name, d.permission_name, d.state FROM sys.database_permissions d JOIN sys.database_principals p ON p.principal_id = d.grantee_principal_id WHERE d.class IN (0, 1, 3, 6)`
	needsQuery        = `SELECT referencing_id, referencing_class, referenced_schema_name, referenced_entity_name, referenced_id, referenced_minor_id, is_ambiguous, referenced_database_name, referenced_server_name FROM sys.sql_expression_dependencies`
	sizesQuery        = `SELECT object_id, index_id, SUM(used_page_count) AS pages, SUM(CASE WHEN index_id < 2 THEN row_count ELSE 0 END) AS counted FROM sys.dm_db_partition_stats GROUP BY object_id, index_id ORDER BY object_id, index_id`

	linkedQuery       = `SELECT name, product, provider, data_source, catalog FROM sys.servers WHERE is_linked = 1`
	loginsQuery       = `SELECT name, type, is_disabled, default_database_name FROM sys.server_principals WHERE type IN ('S', 'U', 'G', 'R') AND is_fixed_role = 0`
	allDatabasesQuery = `SELECT name, collation_name, compatibility_level FROM sys.databases`
)

// Queries returns what a survey sends.
func (Engine) Queries() []string {
	all := []string{sessionSettings, greetQuery, databasesQuery, "-- for each database:\n" + schemasQuery}
	for _, j := range new(reader).jobs() {
		if j.sql != schemasQuery {
			all = append(all, j.sql)
		}
	}
	return append(all, "-- what belongs to no database ("+engine.ServerLevel+"):\n"+allDatabasesQuery, linkedQuery, loginsQuery)
}
