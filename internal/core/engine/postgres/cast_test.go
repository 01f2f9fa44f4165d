package postgres

import "testing"

func TestCastArray(t *testing.T) {
	for text, want := range map[string]string{
		`CHECK (((a)::text = ANY ((ARRAY['x'::character varying, ']), ('::character varying])::text[])))`: `CHECK (((a)::text = ANY ((ARRAY['x'::character varying, ']), ('::character varying]::character varying[])::text[])))`,
		`(ARRAY['a'::"Ops Desk".mark, f(1, b[2])::"Ops Desk".mark])::text[] OR (ARRAY[c::name])::text[]`:  `(ARRAY['a'::"Ops Desk".mark, f(1, b[2])::"Ops Desk".mark]::"Ops Desk".mark[])::text[] OR (ARRAY[c::name]::name[])::text[]`,
		`(ARRAY[1, 2])::numeric[]`:                   `(ARRAY[1, 2])::numeric[]`,                   // no type is written
		`(ARRAY['a'::text, 'b'::name])::text[]`:      `(ARRAY['a'::text, 'b'::name])::text[]`,      // they differ
		`'(ARRAY[''a''::name])::text[]'`:             `'(ARRAY[''a''::name])::text[]'`,             // a string
		`$$(ARRAY['a'::name])::text[]$$`:             `$$(ARRAY['a'::name])::text[]$$`,             // a body
		`= ANY (ARRAY['a'::text, 'b'::text])`:        `= ANY (ARRAY['a'::text, 'b'::text])`,        // no cast
		`(ARRAY['a'::name`:                           `(ARRAY['a'::name`,                           // broken
		`(ARRAY[]::name[])::text[] "(ARRAY[" (ARRAY`: `(ARRAY[]::name[])::text[] "(ARRAY[" (ARRAY`, // nothing in it
	} {
		if got := castArray(text); got != want {
			t.Errorf("%s\ngot  %s\nwant %s", text, got, want)
		}
	}
}
