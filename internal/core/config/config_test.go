package config

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

func write(t *testing.T, path, text string) string {
	t.Helper()
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	return path
}

// A configuration of the folder, or of one above it, comes before the user's own; only that is trusted.
func TestFind(t *testing.T) {
	root := t.TempDir()
	user := filepath.Join(root, "config")
	project := filepath.Join(root, "project")
	deep := filepath.Join(project, "a", "b")
	if err := os.MkdirAll(deep, 0o755); err != nil {
		t.Fatal(err)
	}
	if path, trusted := Find(deep, user); path != "" || trusted {
		t.Errorf("nothing is there, found %q", path)
	}
	own := write(t, filepath.Join(user, "echo-atlas", FileName), "")
	if path, trusted := Find(deep, user); path != own || !trusted {
		t.Errorf("%q, trusted %v", path, trusted)
	}
	shared := write(t, filepath.Join(project, FileName), "")
	if path, trusted := Find(deep, user); path != shared || trusted {
		t.Errorf("%q, trusted %v", path, trusted)
	}
	if path, trusted := Find(filepath.Join(user, "echo-atlas"), user); path != own || !trusted {
		t.Errorf("from its own folder: %q, trusted %v", path, trusted)
	}
	if err := os.MkdirAll(filepath.Join(deep, FileName), 0o755); err != nil { // a folder of that name is no file
		t.Fatal(err)
	}
	if path, _ := Find(deep, user); path != shared {
		t.Errorf("%q", path)
	}
}

func TestLoad(t *testing.T) {
	dir := t.TempDir()
	path := write(t, filepath.Join(dir, FileName), `home = "kept"
[servers.quay-live]
url = "postgres://keeper@quay:5432/berths"
environment = "live"
family = "quay"
password_env = "QUAY"
databases = ["b*"]
skip = ["*/old_*"]
[servers.files]
files = "db/*.db"
[servers.a-file]
url = "sqlite:../one.db"
[servers.rooted]
url = "sqlite:/srv/one.db"
[scratch.here]
url = "postgres://keeper@127.0.0.1"
`)
	c, err := Load(path, false)
	if err != nil {
		t.Fatal(err)
	}
	if c.Home != filepath.Join(dir, "kept") || len(c.Servers) != 4 || len(c.Scratch) != 1 || c.Trusted {
		t.Fatalf("%+v", c)
	}
	got := map[string]Server{}
	for _, s := range c.Servers {
		got[s.Name] = s
	}
	if s := got["quay-live"]; s.Environment != "live" || s.Family != "quay" || s.PasswordEnv != "QUAY" || s.Databases[0] != "b*" || s.Skip[0] != "*/old_*" {
		t.Errorf("%+v", s)
	}
	if s := got["files"]; s.Files != filepath.Join(dir, "db", "*.db") {
		t.Errorf("files of the configuration's folder: %s", s.Files)
	}
	if s := got["a-file"]; s.URL != "sqlite:"+filepath.Join(filepath.Dir(dir), "one.db") {
		t.Error(s.URL)
	}
	if s := got["rooted"]; s.URL != "sqlite:/srv/one.db" {
		t.Error(s.URL)
	}
}

func TestBadConfigurations(t *testing.T) {
	for text, says := range map[string]string{
		"[servers.x]\n": "url or files is missing",
		"[servers.x]\nurl = 'a:b'\nfiles = 'c'\n":                                  "both url and files",
		"[servers.x]\nurl = 'postgres://a:secret@b/c'\n":                           "holds a password",
		"[servers.x]\nurl = 'postgres://b/c?password=secret'\n":                    "holds a password",
		"[scratch.x]\nurl = 'postgres://a:secret@b/c'\n":                           "holds a password",
		"[servers.x]\nurl = 'a:b'\npassword_env = 'A'\npassword_command = 'cat'\n": "both password_env and password_command",
		"[servers.x]\nurl = 'a:b'\n\ncolour = 'red'\n":                             "line 4",
		"home = \n":                             "line 1",
		"[servers.'']\nurl = 'a:b'\n":           "its name is empty",
		"[servers.x]\nurl = 3\n":                "line 2",
		"[servers.x]\nurl='a:b'\n[servers.x]\n": "line 3",
	} {
		path := write(t, filepath.Join(t.TempDir(), FileName), text)
		_, err := Load(path, false)
		if err == nil || !strings.Contains(err.Error(), says) || !strings.Contains(err.Error(), path) || strings.Contains(err.Error(), "secret") || strings.Contains(err.Error(), "\n") {
			t.Errorf("%q: %v, want %q", text, err, says)
		}
	}
	if _, err := Load(filepath.Join(t.TempDir(), "no.toml"), true); err == nil || !strings.Contains(err.Error(), "there is no configuration file") {
		t.Errorf("a file that is not there: %v", err)
	}
	path := write(t, filepath.Join(t.TempDir(), FileName), "[servers.x]\nurl = 'a:b'\npassword_command = 'cat'\n")
	if _, err := Load(path, true); err != nil {
		t.Errorf("in a trusted file: %v", err)
	}
}

// A configuration is trusted at its place, as long as it says the same of servers.
func TestTrust(t *testing.T) {
	user, dir := t.TempDir(), t.TempDir()
	load := func(text string) *Config {
		c, err := Load(write(t, filepath.Join(dir, FileName), text), false)
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	trusts := func(c *Config) bool {
		list, err := OpenTrusts(user)
		if err != nil {
			t.Fatal(err)
		}
		return list.Has(c)
	}
	const one = "[servers.quay]\nurl = 'postgres://keeper@quay'\npassword_env = 'QUAY'\n"
	c := load(one)
	if c.Trusted || trusts(c) || len(c.Secrets()) != 1 {
		t.Errorf("%+v", c)
	}
	list, err := OpenTrusts(user)
	if err != nil {
		t.Fatal(err)
	}
	if err := list.Add(c, time.Unix(1e9, 0)); err != nil {
		t.Fatal(err)
	}
	if !trusts(load(one)) || !trusts(load("# a remark\nhome = 'x'\n"+one)) {
		t.Error("it is not trusted though its servers are the same")
	}
	for _, changed := range []string{strings.Replace(one, "keeper@quay", "keeper@reef", 1), strings.Replace(one, "'QUAY'", "'HOME'", 1), one + "[servers.reef]\nurl = 'mariadb://reef'\n"} {
		if trusts(load(changed)) {
			t.Errorf("it is trusted though it is another:\n%s", changed)
		}
	}
	other, err := Load(write(t, filepath.Join(t.TempDir(), FileName), one), false)
	if err != nil || trusts(other) {
		t.Errorf("a copy elsewhere is trusted (%v)", err)
	}
	if st, err := os.Stat(filepath.Join(user, "echo-atlas", "trusted.json")); err != nil || st.Mode().Perm() != 0o600 {
		t.Errorf("%v %v", st, err)
	}
}

// Whatever stands in a configuration, reading it ends with servers or an error.
func FuzzLoad(f *testing.F) {
	f.Add("[[server]]\nname = \"quay\"\nurl = \"postgres://a@b/c\"\npassword_env = \"X\"\n")
	f.Add("home = \"x\"\n[[pair]]\nnames = [\"a/b\"]\n")
	f.Add("[[server]]\nfiles = \"*.db\"\n")
	f.Fuzz(func(t *testing.T, text string) {
		path := filepath.Join(t.TempDir(), FileName)
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		for _, trusted := range []bool{false, true} {
			c, err := Load(path, trusted)
			if err == nil && c == nil {
				t.Error("neither a configuration nor an error")
			}
		}
	})
}
