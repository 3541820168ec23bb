"""The words that a database takes for its own where a name stands without quotes, by its manual and by trying them."""

#: What all three keep for themselves.
OF_ALL = frozenset(
    """
    all analyze and as asc between case check collate column constraint create cross current_date current_time
    current_timestamp default desc distinct else except false for foreign from group having in inner intersect into
    is join left like limit natural not null of offset on or order outer primary references returning right select
    table then to true union unique using when where
    """.split()
)
#: Those of SQLite.
SQLITE_WORDS = OF_ALL | frozenset(
    """
    add after alter attach autoincrement before begin by cascade cast commit conflict database deferrable deferred
    delete detach drop each end escape exclusive exists explain fail full glob if ignore immediate index indexed
    initially insert instead isnull key match nothing notnull plan pragma query raise reindex rename replace
    restrict rollback row set temp temporary transaction trigger update vacuum values view virtual
    """.split()
)
#: Those of PostgreSQL.
POSTGRESQL_WORDS = OF_ALL | frozenset(
    """
    analyse any array asymmetric authorization binary both cast collation concurrently current_catalog current_role
    current_schema current_user deferrable do end fetch freeze full grant ilike initially isnull lateral leading
    localtime localtimestamp new notnull off old only over overlaps placing session_user similar some symmetric
    tablesample trailing user variadic verbose window with
    """.split()
)
#: Those of MariaDB and MySQL.
MARIADB_WORDS = OF_ALL | frozenset(
    """
    accessible add admin alter array asensitive before bigint binary blob both by call cascade change char character
    condition continue convert cube cume_dist current_role current_user cursor database databases day_hour
    day_microsecond day_minute day_second dec decimal declare delayed delete delete_domain_id dense_rank describe
    deterministic distinctrow div do_domain_ids double drop dual each elseif empty enclosed escaped exists exit
    explain fetch first_value float float4 float8 force fulltext function general generated get
    get_master_public_key grant grouping groups high_priority hour_microsecond hour_minute hour_second if ignore
    ignore_domain_ids ignore_server_ids index infile inout insensitive insert int int1 int2 int3 int4 int8 integer
    interval io_after_gtids io_before_gtids iterate json_table key keys kill lag last_value lateral lead leading
    leave linear lines load localtime localtimestamp lock long longblob longtext loop low_priority master_bind
    master_demote_to_replica master_demote_to_slave master_heartbeat_period master_ssl_verify_server_cert match
    maxvalue mediumblob mediumint mediumtext member middleint minute_microsecond minute_second mod modifies
    no_write_to_binlog nth_value ntile numeric optimize optimizer_costs option optionally out outfile over
    page_checksum parallel parse_gcol_expr parse_vcol_expr partition percent_rank persist persist_only portion
    precision procedure purge qualify range rank read read_write reads real recursive ref_system_id regexp release
    rename repeat replace require resignal restrict return revoke rlike role row row_number rows schema schemas
    second_microsecond sensitive separator set show signal slow smallint spatial specific sql sql_after_gtids
    sql_before_gtids sql_big_result sql_calc_found_rows sql_small_result sqlexception sqlstate sqlwarning ssl
    starting stats_auto_recalc stats_persistent stats_sample_pages stored straight_join system terminated tinyblob
    tinyint tinytext trailing trigger undo unlock unsigned update usage use utc_date utc_time utc_timestamp values
    varbinary varchar varcharacter varying virtual while window with write xor year_month zerofill
    """.split()
)
