package conformance

import (
	"regexp"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// Users, roles, what they may do and must be, resource groups and databases of MySQL come back as they were, by the server's own
// account; passwords do not.
func TestServerLevelMySQL(t *testing.T) {
	s := testservers.MySQL(t)
	root := s.Open(t, s.URL(""))
	users := []string{"rower@'10.%'", "locked@'%'", "tied@'%'", "aged@'%'", "stale@'%'", "other@'%'", "guarded@'%'", "pier_crew@'%'", "inner_crew@'localhost'"}
	drop := "DROP USER IF EXISTS " + strings.Join(users, ", ") + "; DROP DATABASE IF EXISTS log_books; DROP SERVER IF EXISTS far_one; DROP RESOURCE GROUP at_night;"
	if _, err := root.Exec(`SET PERSIST partial_revokes = ON; CREATE DATABASE log_books CHARACTER SET latin1 COLLATE latin1_german1_ci; CREATE TABLE log_books.page (no int, said text);
CREATE ROLE pier_crew, inner_crew@'localhost';
CREATE USER rower@'10.%' IDENTIFIED BY 'hush' REQUIRE SSL WITH MAX_QUERIES_PER_HOUR 50; GRANT pier_crew, inner_crew@'localhost' TO rower@'10.%' WITH ADMIN OPTION; SET DEFAULT ROLE pier_crew TO rower@'10.%';
CREATE USER locked@'%' ACCOUNT LOCK PASSWORD EXPIRE NEVER COMMENT 'it''s "shut" \\ for good'; CREATE USER aged@'%' IDENTIFIED BY 'hush' PASSWORD EXPIRE INTERVAL 30 DAY PASSWORD HISTORY 5 PASSWORD REUSE INTERVAL 365 DAY PASSWORD REQUIRE CURRENT;
CREATE USER stale@'%' IDENTIFIED BY 'hush' PASSWORD EXPIRE PASSWORD REQUIRE CURRENT OPTIONAL; CREATE USER guarded@'%' IDENTIFIED BY 'hush' FAILED_LOGIN_ATTEMPTS 4 PASSWORD_LOCK_TIME UNBOUNDED ATTRIBUTE '{"crew": "tides", "no": 4}';
CREATE USER tied@'%' IDENTIFIED WITH caching_sha2_password BY 'hush' REQUIRE CIPHER 'AES' ISSUER '/CN=Skerry' SUBJECT '/CN=crew' WITH MAX_USER_CONNECTIONS 2;
CREATE USER other@'%'; GRANT PROXY ON tied@'%' TO other@'%' WITH GRANT OPTION; GRANT ALL ON *.* TO other@'%' WITH GRANT OPTION; GRANT SELECT, INSERT ON *.* TO guarded@'%'; REVOKE INSERT ON log_books.* FROM guarded@'%';
GRANT ALL ON log_books.* TO rower@'10.%'; GRANT BACKUP_ADMIN ON *.* TO aged@'%' WITH GRANT OPTION; GRANT ROLE_ADMIN, PROCESS ON *.* TO aged@'%';
GRANT pier_crew TO inner_crew@'localhost'; GRANT INSERT ON log_books.* TO inner_crew@'localhost'; CREATE SERVER far_one FOREIGN DATA WRAPPER mysql OPTIONS (HOST '10.0.0.9', DATABASE 'skerry', USER 'crew', PASSWORD 'hush', PORT 3307);
GRANT SELECT, TRIGGER ON log_books.* TO pier_crew WITH GRANT OPTION; CREATE RESOURCE GROUP at_night TYPE = USER VCPU = 0 DISABLE;`); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _, _ = s.Open(t, s.URL("")).Exec(drop) })
	c := testcatalogue.New(t)
	before := serverLevel(t, c, s, "before")
	var chosen []*catalogue.Entry
	for i := range before.All() {
		if name := before.At(i).ID.Name; slices.Contains([]string{"log_books", "far_one", "at_night"}, name) || slices.ContainsFunc(users, func(u string) bool { return strings.HasPrefix(u, name+"@") }) {
			chosen = append(chosen, before.At(i))
		}
	}
	if len(chosen) != len(users)+3 {
		t.Fatalf("%d of users, roles, server, group and database", len(chosen))
	}
	script, err := ddl.Write(t.Context(), c, s.Engine(), before, chosen, ddl.Options{})
	if err != nil {
		t.Fatal(err)
	}
	if strings.Contains(script.Text(), "hush") || strings.Contains(script.Text(), "$A$005") {
		t.Errorf("the script holds a password:\n%s", script.Text())
	}
	secret := regexp.MustCompile(` AS '(?:[^'\\]|\\.|'')*'`)
	said := func() (all []string) {
		for _, name := range users {
			all = append(all, firstColumn(t, root, "SHOW CREATE USER "+name, "SHOW GRANTS FOR "+name)...)
		}
		for i := range all {
			all[i] = secret.ReplaceAllString(all[i], "")
		}
		return all
	}
	account := said()
	if _, err := root.Exec(drop); err != nil {
		t.Fatal(err)
	}
	s.Run(t, s.URL("mysql"), script.Text())
	compare(t, c, before, serverLevel(t, c, s, "after"))
	compareLines(t, "the server's account", account, said())
	for name, has := range map[string]bool{"rower": true, "locked": false} {
		var empty bool
		if err := root.QueryRow("SELECT authentication_string = '' FROM mysql.user WHERE User = ?", name).Scan(&empty); err != nil || empty == has {
			t.Errorf("%s has a password: %v (%v), want %v", name, !empty, err, has)
		}
	}
}
