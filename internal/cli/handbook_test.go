package cli_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"

	"echo-atlas/internal/testservers"
)

// A handbook written again writes only what is otherwise, and takes away the pages of what is gone; a folder that holds something else stays.
func TestHandbookFolder(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	db := "sqlite:" + filepath.Join(p.dir, "reef.db")
	testservers.SQLite{}.Run(t, db, "CREATE TABLE berth (no INTEGER PRIMARY KEY, depth_m REAL); CREATE TABLE \"Berth old\" (no INT); CREATE VIEW deep AS SELECT no FROM berth WHERE depth_m > 3;")
	p.file("echo-atlas.toml", "[servers.quay]\nurl = \"sqlite:reef.db\"\n")
	p.want(0, "survey", "quay")
	first := p.want(0, "handbook", "--into", "book")
	holds(t, "handbook", first, "5 pages", "written", "book/index.html")
	holds(t, "the same again", p.want(0, "handbook", "--into", "book"), ": 0 files written", "0 removed")
	testservers.SQLite{}.Run(t, db, "DROP TABLE \"Berth old\"; DROP VIEW deep; CREATE VIEW deep AS SELECT no, depth_m FROM berth WHERE depth_m > 3;")
	p.want(0, "survey", "quay")
	var done struct{ Pages, Written, Same, Removed int }
	if err := json.Unmarshal([]byte(p.want(0, "handbook", "--into", "book", "--as", "json")), &done); err != nil || done.Removed != 1 || done.Same == 0 || done.Written == 0 {
		t.Errorf("after a change: %+v, %v", done, err)
	}
	page := p.read("book/quay/reef/view.deep.html")
	holds(t, "the page", page, `<a href="table.berth.html#c-depth_m"`, "changed", "<h2>history</h2>")
	left, err := filepath.Glob(filepath.Join(p.dir, "book/quay/reef/*old*"))
	if err != nil || len(left) > 0 {
		t.Errorf("the page of what is gone is still there: %v", left)
	}
	p.want(0, "handbook", "quay/reef/berth", "--into", "one")
	if text := p.read("one/names.js"); strings.Contains(text, "deep") {
		t.Errorf("what was not asked for is searched: %s", text)
	}
	p.file("other.txt", "mine")
	p.fails(2, []string{"handbook", "--into", "."}, "holds files and no handbook", "new folder")
	p.fails(2, []string{"handbook"}, "--into FOLDER")
	p.fails(2, []string{"handbook", "--into", "a", "--one-file", "b.html"}, "--into FOLDER")
	p.fails(2, []string{"handbook", "--into", "a", "--without", "colours"}, "comments")
	holds(t, "one file", p.want(0, "handbook", "--one-file", "all.html"), "2 objects in all.html")
	if one := p.read("all.html"); strings.Contains(one, "<link") || strings.Contains(one, "src=") || !strings.Contains(one, "depth_m") {
		t.Error("the one file is not all")
	}
}

// tab is a page of a real browser, with what goes wrong on it.
type tab struct {
	ctx    context.Context
	lock   sync.Mutex
	faults []string
	root   string
}

// newTab opens a browser that may load files of a folder alone.
func newTab(t *testing.T, root string) *tab {
	t.Helper()
	options := append(slices.Clone(chromedp.DefaultExecAllocatorOptions[:]), chromedp.ExecPath(testservers.Browser(t)), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.UserDataDir(t.TempDir()),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true), chromedp.WSURLReadTimeout(2*time.Minute))
	ctx, cancel := chromedp.NewExecAllocator(context.Background(), options...)
	t.Cleanup(cancel)
	ctx, stop := chromedp.NewContext(ctx)
	t.Cleanup(stop)
	x := &tab{ctx: ctx, root: "file://" + root}
	fault := func(format string, args ...any) {
		x.lock.Lock()
		defer x.lock.Unlock()
		x.faults = append(x.faults, fmt.Sprintf(format, args...))
	}
	chromedp.ListenTarget(ctx, func(event any) {
		switch e := event.(type) {
		case *runtime.EventExceptionThrown:
			fault("a script failed: %s", e.ExceptionDetails.Error())
		case *runtime.EventConsoleAPICalled:
			fault("the console says %s", e.Type)
		case *log.EventEntryAdded:
			fault("the browser says: %s %s", e.Entry.Text, e.Entry.URL)
		case *network.EventRequestWillBeSent:
			if !strings.HasPrefix(e.Request.URL, x.root) && !strings.HasPrefix(e.Request.URL, "data:") {
				fault("it asks for %s", e.Request.URL)
			}
		}
	})
	if err := chromedp.Run(ctx, network.Enable(), log.Enable(), runtime.Enable()); err != nil {
		t.Fatalf("starting the browser: %v", err)
	}
	return x
}

// open shows a page in a window of a width and returns what a script says there.
func (x *tab) open(t *testing.T, page string, width int64, dark bool, script string, out any) {
	t.Helper()
	scheme := map[bool]string{true: "dark", false: "light"}[dark]
	err := chromedp.Run(x.ctx, chromedp.EmulateViewport(width, 800), emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}}), chromedp.Navigate(x.root+"/"+page), chromedp.Evaluate(script, out))
	if err != nil {
		t.Fatalf("%s: %v", page, err)
	}
	x.lock.Lock()
	defer x.lock.Unlock()
	for _, f := range x.faults {
		t.Errorf("%s: %s", page, f)
	}
	x.faults = nil
}

// seen is what a page has, as the browser lays it out.
type seen struct {
	Links, Ids []string
	Landmarks  map[string]int
	Headings   int
	Wide       bool     // the page is wider than the window
	Pale       []string // texts of too little contrast
	Nameless   []string // what can be used and has no name
	Doubled    []string // ids that stand twice
}

const look = `(() => {
  const parse = s => { const m = s.match(/[\d.]+/g); return m ? m.map(Number) : [0, 0, 0, 0]; };
  const light = c => { const f = c.slice(0, 3).map(v => { v /= 255; return v <= .03928 ? v / 12.92 : Math.pow((v + .055) / 1.055, 2.4); }); return .2126 * f[0] + .7152 * f[1] + .0722 * f[2]; };
  const behind = e => { for (; e; e = e.parentElement) { const c = parse(getComputedStyle(e).backgroundColor); if (c.length < 4 || c[3] > 0) return c; } return [255, 255, 255]; };
  const out = { Links: [], Ids: [], Landmarks: {}, Headings: document.querySelectorAll("h1").length, Wide: document.documentElement.scrollWidth > window.innerWidth + 1, Pale: [], Nameless: [], Doubled: [] };
  document.querySelectorAll("a[href]").forEach(a => out.Links.push(a.getAttribute("href")));
  const ids = {}; document.querySelectorAll("[id]").forEach(e => { out.Ids.push(e.id); if (ids[e.id]) out.Doubled.push(e.id); ids[e.id] = true; });
  ["header", "main", "nav", "footer", "form[role=search]"].forEach(s => out.Landmarks[s] = document.querySelectorAll(s).length);
  document.querySelectorAll("body *").forEach(e => {
    if (e.closest("svg") || !e.offsetParent || !Array.from(e.childNodes).some(n => n.nodeType === 3 && n.textContent.trim())) return;
    const a = light(parse(getComputedStyle(e).color)), b = light(behind(e));
    if ((Math.max(a, b) + .05) / (Math.min(a, b) + .05) < 4.5) out.Pale.push(e.tagName + " " + e.className + ": " + e.textContent.slice(0, 40));
  });
  document.querySelectorAll("a, button, input").forEach(e => { if (!(e.textContent.trim() || e.getAttribute("aria-label") || (e.id && document.querySelector("label[for=" + e.id + "]")))) out.Nameless.push(e.outerHTML.slice(0, 80)); });
  return out;
})()`

// The handbook of the demo is walked through in a real browser: every link leads somewhere, nothing fails or leaves the folder, it can be read in narrow
// and wide windows, by light and dark, and the search finds.
func TestHandbookInBrowser(t *testing.T) {
	t.Parallel()
	p := demoPlace(t)
	p.want(0, "handbook", "--into", "book")
	root := filepath.Join(p.dir, "book")
	x := newTab(t, root)
	var pages []string
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err == nil && strings.HasSuffix(path, ".html") {
			rel, _ := filepath.Rel(root, path)
			pages = append(pages, rel)
		}
		return err
	})
	if err != nil || len(pages) < 80 {
		t.Fatalf("%d pages, %v", len(pages), err)
	}
	ids, links := map[string][]string{}, map[string][]string{}
	reached := map[string]bool{"index.html": true}
	for i, page := range pages {
		var s seen
		x.open(t, page, []int64{1280, 400}[i%2], i%4 >= 2, look, &s)
		ids[page], links[page] = s.Ids, s.Links
		if s.Headings != 1 || s.Landmarks["header"] != 1 || s.Landmarks["main"] != 1 || s.Landmarks["footer"] != 1 || s.Landmarks["form[role=search]"] != 1 {
			t.Errorf("%s: landmarks %v, %d headings of the first order", page, s.Landmarks, s.Headings)
		}
		if s.Wide || len(s.Pale)+len(s.Nameless)+len(s.Doubled) > 0 {
			t.Errorf("%s: wider than its window: %v; of little contrast: %v; without a name: %v; ids twice: %v", page, s.Wide, s.Pale, s.Nameless, s.Doubled)
		}
	}
	for page, list := range links {
		for _, href := range list {
			file, anchor, _ := strings.Cut(href, "#")
			to := page
			if file != "" {
				to = filepath.Join(filepath.Dir(page), file)
			}
			reached[to] = true
			if ids[to] == nil || anchor != "" && !slices.Contains(ids[to], anchor) {
				t.Errorf("%s: the link %s leads nowhere", page, href)
			}
		}
	}
	for _, page := range pages {
		if !reached[page] {
			t.Errorf("no link leads to %s", page)
		}
	}
	x.searches(t)
}

// searches uses the search as a reader does.
func (x *tab) searches(t *testing.T) {
	t.Helper()
	for text, want := range map[string]string{"mooring": "quay-live/berths/mooring", "DRAUGHT_M": "quay-live/berths/mooring", "main_b": "quay-stage/berths/harbour", "nosuchname": ""} {
		var hits []string
		var said string
		err := chromedp.Run(x.ctx, chromedp.Navigate(x.root+"/quay-live/berths/index.html"), chromedp.KeyEvent("/"), chromedp.Poll(`document.activeElement.id === "q"`, nil), chromedp.Evaluate(`document.getElementById("q").value = ""`, nil), // the protocol types the slash, too
			chromedp.SendKeys("#q", text),
			chromedp.Poll(`document.getElementById("q").value === `+strconv.Quote(text)+` && document.getElementById("said").textContent !== ""`, nil),
			chromedp.Evaluate(`Array.from(document.querySelectorAll("#hits a")).map(a => a.firstChild.textContent)`, &hits), chromedp.Text("#said", &said))
		if err != nil {
			t.Fatalf("searching %q: %v", text, err)
		}
		if want != "" && !slices.Contains(hits, want) || want == "" && (len(hits) > 0 || said != "nothing found") {
			t.Errorf("searching %q finds %v, and says %q", text, hits, said)
		}
	}
	var title string
	err := chromedp.Run(x.ctx, chromedp.Navigate(x.root+"/index.html"), chromedp.SendKeys("#q", "free_berth"), chromedp.Poll(`document.querySelectorAll("#hits a").length > 0`, nil), chromedp.SendKeys("#q", "\r"))
	for try := 0; err == nil && try < 1000 && !strings.HasPrefix(title, "free_berth"); try++ { // until the page is there
		_ = chromedp.Run(x.ctx, chromedp.Title(&title))
	}
	if err != nil || !strings.Contains(title, "view") {
		t.Errorf("the first hit leads to %q, %v", title, err)
	}
}

// Hostile names and texts stay text, in many pages and in one.
func TestHandbookHostile(t *testing.T) {
	t.Parallel()
	p := newPlace(t)
	var script strings.Builder
	for i, name := range []string{`<script>document.title="taken"</script>`, `"><img src=x onerror=document.title="taken">`, `</script><script>document.title="taken"</script>`, `../../escape`, `javascript:document.title="taken"`, "a\u2028b", "{{.}}", "#top", `'"` + "`"} {
		quoted := `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
		fmt.Fprintf(&script, "CREATE TABLE %s (%s INTEGER PRIMARY KEY, up INTEGER REFERENCES %s, CHECK (%s <> %d)); CREATE VIEW \"v%d %s AS SELECT %s, '%s' AS said FROM %s;\n", quoted, quoted, quoted, quoted, -i, i, quoted[1:], quoted, strings.ReplaceAll(name, "'", "''"), quoted)
	}
	testservers.SQLite{}.Run(t, "sqlite:"+filepath.Join(p.dir, "hostile.db"), script.String())
	p.want(0, "survey", "--from", "sqlite:hostile.db", "--name", `<b>"quay`)
	p.want(0, "handbook", "--into", "book", "--title", `<i>Book</i>`)
	p.want(0, "handbook", "--one-file", "all.html")
	if err := os.Rename(filepath.Join(p.dir, "all.html"), filepath.Join(p.dir, "book", "all.html")); err != nil {
		t.Fatal(err)
	}
	root := filepath.Join(p.dir, "book")
	x := newTab(t, root)
	count := 0
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".html") {
			return err
		}
		rel, _ := filepath.Rel(root, path)
		var got struct {
			Title string
			Bad   int
		}
		x.open(t, strings.ReplaceAll(rel, "#", "%23"), 1280, false, `({Title: document.title, Bad: document.querySelectorAll("main img, main script, a[href^='javascript:'], main i, main b").length})`, &got)
		if got.Title == "taken" || got.Bad > 0 {
			t.Errorf("%s: a name does harm: %+v", rel, got)
		}
		count++
		return nil
	})
	if err != nil || count < 20 {
		t.Errorf("%d pages, %v", count, err)
	}
}
