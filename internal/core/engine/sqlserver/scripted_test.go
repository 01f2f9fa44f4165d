package sqlserver

import (
	"strings"
	"testing"

	"echo-atlas/internal/core/engine"
)

// The pieces of a statement that is handed over as strings make the statement again, and none of their lines is a
// command to the client.
func TestScripted(t *testing.T) {
	for _, text := range []string{
		"CREATE VIEW a AS SELECT 1\nGO\nDROP TABLE berth", "CREATE VIEW a AS SELECT 'x'\r\n  go 5\r\n:!!touch canary\r\n", "CREATE VIEW a AS SELECT '$(x)' -- ''\n",
		"SELECT 1\n:r file\n!!dir\nexit\nQUIT\n\tGO;", "SELECT '\n\x00GO", "SELECT N'$($(''$('\nGO -- so",
	} {
		got, _, err := Engine{}.Scripted(&engine.Statement{}, text, "")
		if err != nil {
			t.Fatal(err)
		}
		if command().MatchString(got) {
			t.Errorf("%q: the client would see a command in\n%s", text, got)
		}
		made := ""
		body, ok := strings.CutPrefix(got, "DECLARE @text nvarchar(max) = CAST(N'' AS nvarchar(max))")
		body, end := strings.CutSuffix(body, ";\nEXEC (@text)")
		for ok && end && body != "" {
			body = strings.TrimLeft(body, " \n+")
			switch {
			case strings.HasPrefix(body, "NCHAR(10)"):
				made, body = made+"\n", body[9:]
			case strings.HasPrefix(body, "NCHAR(13)"):
				made, body = made+"\r", body[9:]
			case strings.HasPrefix(body, "N'"):
				for body = body[2:]; ; body = body[1:] {
					if strings.HasPrefix(body, "''") {
						body = body[1:]
					} else if body[0] == '\'' {
						body = body[1:]
						break
					}
					made += body[:1]
				}
			default:
				ok = false
			}
		}
		if !ok || made != text {
			t.Errorf("%q became\n%s\nwhich makes %q", text, got, made)
		}
	}
	for _, text := range []string{"CREATE TABLE a (go int)", "CREATE VIEW cargo AS SELECT\ngoal FROM x", "SELECT 1 AS [:x]"} {
		if got, _, _ := (Engine{}).Scripted(&engine.Statement{}, text, ""); got != text {
			t.Errorf("%q became %q for nothing", text, got)
		}
	}
}
