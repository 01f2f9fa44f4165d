package mariadb

// Which names mean the same without quotes, wherever they stand.

import (
	"strings"

	"echo-atlas/internal/core/engine"
)

// keywords are all words of information_schema.KEYWORDS and SQL_FUNCTIONS of MariaDB, and what MySQL and later versions reserve.
var keywords = engine.LazyWords(`abs accessible account acos action add add_months adddate addtime admin aes_decrypt aes_encrypt after against aggregate algorithm all alter always
analyze and any array as asc ascii asensitive asin at atan atomic authors auto auto_increment autoextend_size avg avg_row_length backup before begin
benchmark between bigint bin binary binlog binlog_gtid_pos bit bit_and bit_count bit_length bit_or bit_xor blob block body bool boolean both btree by
byte cache call cascade cascaded case cast catalog_name ceil ceiling chain change changed channel char char_length character character_length charset
check checkpoint checksum chr cipher class_origin client clob close coalesce code coercibility collate collation column column_add column_check
column_create column_delete column_exists column_get column_json column_list column_name columns comment commit committed compact completion compress
compressed concat concat_operator_oracle concat_ws concurrent condition connection connection_id consistent constraint constraint_catalog
constraint_name constraint_schema contains context continue contributors conv convert convert_tz cos cot count cpu create cross cube cume_dist curdate
current current_date current_pos current_role current_time current_timestamp current_user cursor cursor_name curtime cycle data database databases
datafile date date_add date_format date_sub datediff datetime day day_hour day_microsecond day_minute day_second dayname dayofmonth dayofweek
dayofyear deallocate dec decimal declare decode decode_histogram decode_oracle default definer degrees delay_key_write delayed delete delete_domain_id
delimiter dense_rank des_decrypt des_encrypt des_key_file desc describe deterministic diagnostics directory disable discard disk distinct distinctrow
div do do_domain_ids double drop dual dumpfile duplicate dynamic each else elseif elsif elt empty enable enclosed encode encrypt end ends engine
engines enum error errors escape escaped event events every examined except exception exchange exclude execute exists exit exp expansion expire
explain export export_set extended extent_size extract extractvalue false fast faults federated fetch field fields file find_in_set first first_value
fixed float floor flush following follows for force foreign format found found_rows from from_days from_unixtime full fulltext function general
generated get get_format get_lock global goto grant grants greatest group group_concat groups handler hard hash having help hex high_priority history
host hosts hour hour_microsecond hour_minute hour_second id identified if ifnull ignore ignore_domain_ids ignore_server_ids ignored immediate import
in increment index indexes inet4 inet6 inet_aton inet_ntoa infile initial_size inner inout insensitive insert insert_method install instr int integer
intersect interval into invisible invoker io io_thread ipc is is_free_lock is_used_lock isnull isolation isopen issuer iterate join json json_array
json_array_append json_array_insert json_arrayagg json_compact json_contains json_contains_path json_depth json_detailed json_equals json_exists
json_extract json_insert json_keys json_length json_loose json_merge json_merge_patch json_merge_preserve json_normalize json_object json_objectagg
json_overlaps json_pretty json_query json_quote json_remove json_replace json_search json_set json_table json_type json_unquote json_valid json_value
key key_block_size keys kill lag language last last_day last_insert_id last_value lastval lcase lead leading least leave leaves left length lengthb
less level library like limit linear lines list ln load load_file local localtime localtimestamp locate lock locked locks log logfile logs long
longblob longtext loop low_priority lower lpad lpad_oracle ltrim ltrim_oracle make_set makedate maketime manual master master_connect_retry
master_delay master_demote_to_replica master_demote_to_slave master_gtid_pos master_gtid_wait master_heartbeat_period master_host master_log_file
master_log_pos master_password master_port master_pos_wait master_server_id master_ssl master_ssl_ca master_ssl_capath master_ssl_cert
master_ssl_cipher master_ssl_crl master_ssl_crlpath master_ssl_key master_ssl_verify_server_cert master_use_gtid master_user match max
max_connections_per_hour max_queries_per_hour max_rows max_size max_statement_time max_updates_per_hour max_user_connections maxvalue median medium
mediumblob mediumint mediumtext member memory merge message_text microsecond mid middleint migrate min min_rows minus minute minute_microsecond
minute_second minvalue mod mode modifies modify monitor month monthname mutex mysql mysql_errno name name_const names national natural
natural_sort_key nchar nested never next nextval no no_wait no_write_to_binlog nocache nocycle nodegroup nomaxvalue nominvalue none not notfound now
nowait nth_value ntile null nullif number numeric nvarchar nvl oct octet_length of offset old_password on one online only open optimize option
optionally options or ord order ordinality others out outer outfile over overlaps owner pack_keys package page page_checksum parallel parse_vcol_expr
parser partial partition partitioning partitions password path percent_rank percentile_cont percentile_disc period period_add period_diff persistent
phase pi plugin plugins port portion position pow power precedes preceding precision prepare preserve prev previous primary privileges procedure
process processlist profile profiles proxy purge qualify quarter query quick quote radians raise rand random_bytes range rank raw read read_only
read_write reads real rebuild recover recursive redo_buffer_size redofile redundant ref_system_id references regexp regexp_instr regexp_replace
regexp_substr relay relay_log_file relay_log_pos relay_thread relaylog release release_all_locks release_lock reload remove rename reorganize repair
repeat repeatable replace replace_oracle replay replica replica_pos replicas replication require reset resignal restart restore restrict resume return
returned_sqlstate returning returns reuse reverse revoke right rlike role rollback rollup round routine row row_count row_format row_number rowcount
rownum rows rowtype rpad rpad_oracle rtree rtrim rtrim_oracle savepoint schedule schema schema_name schemas sec_to_time second second_microsecond
security select sensitive separator sequence serial serializable server session session_user set setval sformat sha share show shutdown sign signal
signed simple sin skip slave slave_pos slaves sleep slow smallint snapshot socket soft some soname soundex sounds source space spatial specific sql
sql_big_result sql_buffer_result sql_cache sql_calc_found_rows sql_no_cache sql_small_result sql_thread sql_tsi_day sql_tsi_hour sql_tsi_minute
sql_tsi_month sql_tsi_quarter sql_tsi_second sql_tsi_week sql_tsi_year sqlexception sqlstate sqlwarning sqrt ssl stage start starting starts statement
stats_auto_recalc stats_persistent stats_sample_pages status std stddev stddev_pop stddev_samp stop storage stored str_to_date straight_join strcmp
string subclass_origin subdate subject subpartition subpartitions substr substr_oracle substring substring_index subtime sum super suspend swaps
switches sys_guid sysdate system system_time system_user table table_checksum table_name tables tablesample tablespace tan temporary temptable
terminated text than then threads ties time time_format time_to_sec timediff timestamp timestampadd timestampdiff tinyblob tinyint tinytext to to_char
to_days to_seconds trailing transaction transactional trigger triggers trim trim_oracle true truncate type ucase unbounded uncommitted uncompress
uncompressed_length undefined undo undo_buffer_size undofile unhex unicode uninstall union unique unix_timestamp unknown unlock unsigned until update
updatexml upgrade upper usage use use_frm user user_resources using utc_date utc_time utc_timestamp uuid uuid_short value values var_pop var_samp
varbinary varchar varcharacter variables variance varying vector version versioning via view virtual visible wait warnings week weekday weekofyear
weight_string when where while window with within without work wrapper write wsrep_last_seen_gtid wsrep_last_written_gtid wsrep_sync_wait_upto_gtid xa
xml xor year year_month yearweek zerofill`)

// Bare implements engine.Barer.
func (Engine) Bare(name string) bool {
	return engine.PlainName(name) && !keywords()[strings.ToLower(name)]
}
