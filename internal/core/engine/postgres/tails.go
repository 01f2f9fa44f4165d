package postgres

// Objects of the long tail are kept as the statements that make them.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
)

// tailObjects makes objects of the kinds that are kept as statements.
func (r *reader) tailObjects(made map[[2]uint32]*schema.Object) {
	for i := range r.tails {
		t := &r.tails[i]
		o := &schema.Object{
			Kind: t.kind, Schema: t.schema, Name: t.name, Signature: t.signature, Owner: r.roles[t.owner], Definition: t.definition, Settings: t.settings,
			Comment: r.comments[comment{t.class, t.oid, 0}], Grants: r.grants[[2]uint32{t.class, t.oid}],
		}
		for _, right := range r.memberRights[t.oid] {
			if t.kind == schema.KindExtension {
				o.Definition += ";\n" + right
			}
		}
		if t.body != nil {
			o.Enum, o.Domain, o.Composite, o.Aggregate = t.body.Enum, t.body.Domain, t.body.Composite, t.body.Aggregate
		}
		if t.relation != 0 && t.kind != schema.KindComposite { // a rule, a policy
			on := r.classes[t.relation]
			if on == nil || made[[2]uint32{pgClass, t.relation}] == nil {
				continue
			}
			o.Within = on.name
		}
		if text := r.printed[t.oid]; t.kind == schema.KindPolicy {
			o.Policy = policyOf(text)
		} else if o.Definition == "" && t.body == nil {
			o.Definition = strings.TrimRight(r.printed[t.oid], "; \n")
		}
		made[[2]uint32{t.class, t.oid}] = o
		r.reading.Objects = append(r.reading.Objects, o)
		if !slices.Contains(r.server.info.Rights, "superuser") {
			switch {
			case o.Kind == schema.KindSubscription:
				r.remark("hidden", o.ID().Qualified(), "its connection: only a superuser may read it")
			case o.Kind == schema.KindUserMapping && !strings.Contains(o.Definition, " OPTIONS ("):
				r.remark("hidden", o.ID().Qualified(), "its options, if it has any: only the owner of the server may read them")
			}
		}
		if hidden := o.Setting("left out"); hidden != "" {
			r.remark("hidden", o.ID().Qualified(), "the options "+hidden+" are left out: they may hold secrets")
		}
	}
}

// defaultRightsObjects makes objects of ALTER DEFAULT PRIVILEGES, one for each role, schema and kind.
func (r *reader) defaultRightsObjects() {
	kinds := map[byte]string{'r': "TABLES", 'S': "SEQUENCES", 'f': "FUNCTIONS", 'T': "TYPES", 'n': "SCHEMAS", 'L': "LARGE OBJECTS"}
	for _, d := range r.defaultRights {
		if kinds[d.kind] == "" {
			continue
		}
		prefix := "ALTER DEFAULT PRIVILEGES FOR ROLE " + quote(d.role) + " "
		if d.schema != "" {
			prefix += "IN SCHEMA " + quote(d.schema) + " "
		}
		statements := grantStatements(d.rights, prefix, kinds[d.kind])
		if len(statements) == 0 {
			continue
		}
		r.reading.Objects = append(r.reading.Objects, &schema.Object{
			Kind: schema.KindDefaultRights, Schema: d.schema, Name: d.role, Signature: strings.ToLower(kinds[d.kind]), Definition: strings.Join(statements, ";\n"),
		})
	}
}

// identity returns how statements that alter, drop or comment name an object of a tail kind.
func identity(o *schema.Object) string {
	name := qualify(o.Schema, o.Name)
	switch o.Kind {
	case schema.KindEnum, schema.KindComposite, schema.KindRange, schema.KindBaseType:
		return "TYPE " + name
	case schema.KindWrapper:
		return "FOREIGN DATA WRAPPER " + name
	case schema.KindServer:
		return "SERVER " + name
	case schema.KindUserMapping:
		if o.Signature == "public" {
			return "USER MAPPING FOR PUBLIC SERVER " + name
		}
		return "USER MAPPING FOR " + quote(o.Signature) + " SERVER " + name
	case schema.KindAggregate:
		arguments := o.Signature
		if arguments == "" {
			arguments = "*"
		}
		return "AGGREGATE " + name + "(" + arguments + ")"
	case schema.KindOperator:
		return "OPERATOR " + quote(o.Schema) + "." + o.Name + " (" + o.Signature + ")"
	case schema.KindOperatorClass, schema.KindOperatorFamily:
		return strings.ToUpper(string(o.Kind)) + " " + name + " USING " + quote(o.Signature)
	case schema.KindCast:
		return "CAST " + o.Name
	case schema.KindTransform:
		return "TRANSFORM FOR " + o.Name + " LANGUAGE " + quote(o.Signature)
	case schema.KindRule, schema.KindPolicy:
		return strings.ToUpper(string(o.Kind)) + " " + quote(o.Name) + " ON " + qualify(o.Schema, o.Within)
	case schema.KindStatistics:
		return "STATISTICS " + name
	}
	return strings.ToUpper(string(o.Kind)) + " " + name
}
