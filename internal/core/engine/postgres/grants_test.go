package postgres

import (
	"reflect"
	"strings"
	"testing"

	"echo-atlas/internal/core/schema"
)

func TestParseACL(t *testing.T) {
	for text, want := range map[string][]aclItem{
		"{}":                                   nil,
		"{atlas=arwdDxt/atlas}":                {{"atlas", "arwdDxt", ""}},
		"{=r/atlas,crew=r*w/atlas}":            {{"", "r", ""}, {"crew", "rw", "r"}},
		`{"\"Harbour Office\"=U*C/atlas"}`:     {{"Harbour Office", "UC", "U"}},
		`{"\"a\"\"b,c=d\"=X/atlas",b=X/atlas}`: {{`a"b,c=d`, "X", ""}, {"b", "X", ""}},
		"{atlas=/atlas}":                       {{"atlas", "", ""}},
	} {
		if got := parseACL(text); !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %+v, want %+v", text, got, want)
		}
	}
}

func TestGrantsOf(t *testing.T) {
	usualTable := []aclItem{{grantee: "atlas", letters: "arwdDxt"}}
	for _, c := range []struct{ acl, want string }{
		{"{atlas=arwdDxt/atlas}", ""},
		{"{atlas=arwdDxt/atlas,crew=r/atlas}", "crew: SELECT"},
		{"{atlas=arwxt/atlas}", "atlas: not DELETE, TRUNCATE"},
		{"{}", "atlas: not SELECT, INSERT, UPDATE, DELETE, TRUNCATE, REFERENCES, TRIGGER"},
		{"{atlas=a*r*w*d*D*x*t*/atlas,=r/atlas}", "everybody: SELECT"}, // the owner may pass on everything anyway
		{"{atlas=arwdDxt/atlas,crew=r*w/atlas,crew=d/office}", "crew: UPDATE, DELETE; SELECT with grant option"},
	} {
		var got []string
		for _, g := range grantsOf(parseACL(c.acl), usualTable, "atlas", "") {
			got = append(got, g.PartKey()+": "+g.Describe())
		}
		if strings.Join(got, " | ") != c.want {
			t.Errorf("%s: %q, want %q", c.acl, got, c.want)
		}
	}
}

// What is granted and taken back in a script is undone by swapping the words.
func TestGrantStatements(t *testing.T) {
	grants := []schema.Grant{{Grantee: "TO FROM", Granted: []string{"SELECT", "UPDATE"}, Column: "a,b"}, {Revoked: []string{"EXECUTE"}}, {Grantee: "crew", Grantable: []string{"USAGE"}}}
	made := grantStatements(grants, "ALTER DEFAULT PRIVILEGES ", "TABLES")
	text := strings.Join(made, ";\n")
	want := `ALTER DEFAULT PRIVILEGES GRANT SELECT ("a,b"), UPDATE ("a,b") ON TABLES TO "TO FROM";
ALTER DEFAULT PRIVILEGES REVOKE EXECUTE ON TABLES FROM PUBLIC;
ALTER DEFAULT PRIVILEGES GRANT USAGE ON TABLES TO crew WITH GRANT OPTION`
	if text != want {
		t.Errorf("got\n%s\nwant\n%s", text, want)
	}
	for i, want := range []string{`ALTER DEFAULT PRIVILEGES REVOKE SELECT ("a,b"), UPDATE ("a,b") ON TABLES FROM "TO FROM"`,
		"ALTER DEFAULT PRIVILEGES GRANT EXECUTE ON TABLES TO PUBLIC", "ALTER DEFAULT PRIVILEGES REVOKE USAGE ON TABLES FROM crew"} {
		if got := swapGrants(made[i]); got != want {
			t.Errorf("got %q, want %q", got, want)
		}
	}
}
