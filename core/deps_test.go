package core_test

import (
	"encoding/json"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const module = "earnestpony/"

// mayImport is policy: which of our packages each package may import. Argue with it in review; do
// not edit it to get a build through. A package that is not listed fails the test.
var mayImport = map[string][]string{
	"core/chain":             {},
	"core/tag":               {},
	"core/wallclock":         {},
	"core/wear":              {"core/chain"},
	"core/forecast":          {"core/chain", "core/wear"},
	"core/sizing":            {"core/chain"},
	"core/clean":             {"core/chain"},
	"core/fluids":            {},
	"core/dayplan":           {},
	"core/interval":          {"core/chain", "core/clean", "core/fluids", "core/forecast", "core/lube", "core/wear"},
	"core/lube":              {"core/chain", "core/clean", "core/fluids", "core/forecast"},
	"core/price":             {},
	"core/fault":             {"core/clean"},
	"core/fitting":           {"core/chain", "core/sizing", "core/wear"},
	"core/forecast/fairtest": {"core/chain", "core/forecast"},

	"internal/calc":      {"core/chain", "core/clean", "core/dayplan", "core/fault", "core/fluids", "core/forecast", "core/interval", "core/lube", "core/sizing", "core/wear"},
	"internal/store":     {},
	"internal/formats":   {"core/wallclock"},
	"internal/outside":   {"core/chain", "core/wear"},
	"internal/live":      {},
	"internal/localpg":   {},
	"internal/localcert": {},
	"internal/demo":      {"core/chain", "core/wallclock", "core/wear", "internal/outside", "internal/shop", "internal/shop/bikes", "internal/shop/contact", "internal/shop/due", "internal/shop/jobs", "internal/shop/measure", "internal/shop/record", "internal/shop/rules", "internal/shop/stock", "internal/store"},
	"internal/bigshop":   {"core/tag", "internal/shop", "internal/shop/bikes", "internal/shop/measure", "internal/shop/record", "internal/shop/rules", "internal/store"},
	"internal/pgtest":    {"internal/localpg", "internal/store"},
	"web":                {},
	"tools/house":        {},

	// The rooms of the shop, from the ground up: imports run only upward in this list.
	"internal/shop/record":   {"core/chain", "core/forecast", "core/interval", "core/tag", "core/wallclock", "core/wear", "internal/calc", "internal/store"},
	"internal/shop/people":   {"core/wear", "internal/shop/record", "internal/store"},
	"internal/shop/rules":    {"core/chain", "core/clean", "core/dayplan", "core/fitting", "core/forecast", "core/interval", "core/lube", "core/price", "core/sizing", "core/wallclock", "core/wear", "internal/shop/people", "internal/shop/record", "internal/store"},
	"internal/shop/stock":    {"core/chain", "core/clean", "core/fluids", "core/lube", "core/sizing", "core/tag", "internal/shop/people", "internal/shop/record", "internal/store"},
	"internal/shop/measure":  {"core/chain", "core/forecast", "core/wear", "internal/calc", "internal/shop/people", "internal/shop/record", "internal/shop/rules", "internal/store"},
	"internal/shop/bikes":    {"core/chain", "core/fitting", "core/forecast", "core/interval", "core/sizing", "core/tag", "core/wallclock", "core/wear", "internal/calc", "internal/formats", "internal/outside", "internal/shop/measure", "internal/shop/record", "internal/shop/rules", "internal/shop/stock", "internal/store"},
	"internal/shop/due":      {"core/forecast", "core/interval", "core/lube", "core/price", "core/wear", "internal/shop/bikes", "internal/shop/measure", "internal/shop/record", "internal/shop/rules", "internal/shop/stock", "internal/store"},
	"internal/shop/jobs":     {"core/chain", "core/clean", "core/fault", "core/fluids", "core/forecast", "core/lube", "core/price", "core/tag", "core/wear", "internal/calc", "internal/shop/bikes", "internal/shop/measure", "internal/shop/people", "internal/shop/record", "internal/shop/rules", "internal/shop/stock", "internal/store"},
	"internal/shop/schedule": {"core/clean", "core/dayplan", "core/lube", "core/wallclock", "internal/shop/jobs", "internal/shop/record", "internal/shop/rules", "internal/shop/stock", "internal/store"},
	"internal/shop/contact":  {"core/clean", "core/interval", "core/wallclock", "core/wear", "internal/formats", "internal/outside", "internal/shop/bikes", "internal/shop/due", "internal/shop/jobs", "internal/shop/measure", "internal/shop/people", "internal/shop/record", "internal/shop/rules", "internal/store"},
	"internal/shop/exchange": {"core/forecast", "core/interval", "core/tag", "core/wear", "internal/formats", "internal/shop/bikes", "internal/shop/contact", "internal/shop/due", "internal/shop/measure", "internal/shop/record", "internal/shop/rules", "internal/store"},
	"internal/shop":          {"internal/shop/bikes", "internal/shop/contact", "internal/shop/due", "internal/shop/exchange", "internal/shop/jobs", "internal/shop/measure", "internal/shop/people", "internal/shop/record", "internal/shop/rules", "internal/shop/schedule", "internal/shop/stock", "internal/store"},

	"internal/httpapi/apigen": {"internal/calc", "internal/shop/bikes", "internal/shop/contact", "internal/shop/due", "internal/shop/exchange", "internal/shop/jobs", "internal/shop/measure", "internal/shop/people", "internal/shop/record", "internal/shop/rules", "internal/shop/schedule", "internal/shop/stock"},
	"internal/httpapi":        {"internal/calc", "internal/formats", "internal/httpapi/apigen", "internal/live", "internal/shop", "internal/shop/bikes", "internal/shop/due", "internal/shop/people", "internal/shop/record"},
	"cmd/pony":                {"core/clean", "core/forecast/fairtest", "internal/bigshop", "internal/calc", "internal/demo", "internal/httpapi", "internal/live", "internal/localcert", "internal/localpg", "internal/outside", "internal/shop", "internal/shop/people", "internal/shop/record", "internal/shop/rules", "internal/store", "web"},
}

// coreMayNot are parts of the standard library that would let the world into the core: clocks are
// values passed in, and chance comes with a seed.
var coreMayNot = []string{"net", "net/http", "database/sql", "os", "io/fs", "log", "log/slog", "encoding/json", "math/rand", "context"}

func TestDependencies(t *testing.T) {
	root, err := filepath.Abs("..")
	require.NoError(t, err)
	found := map[string]bool{}
	err = filepath.WalkDir(root, func(file string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".local" || d.Name() == ".git") {
			return fs.SkipDir
		}
		if !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
			return nil
		}
		rel, err := filepath.Rel(root, filepath.Dir(file))
		if err != nil {
			return err
		}
		pkg := filepath.ToSlash(rel)
		found[pkg] = true
		allowed, listed := mayImport[pkg]
		if !assert.True(t, listed, "package %s has no row in mayImport", pkg) {
			return nil
		}
		parsed, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, spec := range parsed.Imports {
			imported := strings.Trim(spec.Path.Value, `"`)
			if ours, ok := strings.CutPrefix(imported, module); ok {
				assert.Contains(t, allowed, ours, "%s imports %s", path.Join(pkg, filepath.Base(file)), ours)
				continue
			}
			if strings.HasPrefix(pkg, "core/") {
				assert.False(t, strings.Contains(imported, ".") && !strings.HasPrefix(imported, "gonum.org/"), "%s imports %s: the core knows the standard library and gonum", pkg, imported)
				assert.NotContains(t, coreMayNot, imported, "%s lets the world into the core", pkg)
			}
		}
		return nil
	})
	require.NoError(t, err)
	for pkg := range mayImport {
		assert.True(t, found[pkg], "mayImport lists %s, which is not there", pkg)
	}
}

// What the core pulls in through others is held to the same: no web, no database.
func TestCoreKnowsNoWebOrDatabase(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", "-json=ImportPath,Standard", "earnestpony/core/...").Output()
	require.NoError(t, err)
	stream := json.NewDecoder(strings.NewReader(string(out)))
	for stream.More() {
		var pkg struct {
			ImportPath string
			Standard   bool
		}
		require.NoError(t, stream.Decode(&pkg))
		ok := pkg.Standard || strings.HasPrefix(pkg.ImportPath, module+"core") || strings.HasPrefix(pkg.ImportPath, "gonum.org/")
		assert.True(t, ok, "the core depends on %s", pkg.ImportPath)
		assert.False(t, slices.Contains([]string{"net", "net/http", "database/sql"}, pkg.ImportPath), "the core depends on %s", pkg.ImportPath)
	}
}

// rooms are those of the shop from the ground up, as rooms.json lists them: a row of mayImport that lets one import
// what lies above it is wrong, whoever wrote it.
func TestRoomsImportUpward(t *testing.T) {
	text, err := os.ReadFile("../internal/shop/rooms.json")
	require.NoError(t, err)
	var rooms struct{ Order []string }
	require.NoError(t, json.Unmarshal(text, &rooms))
	require.Len(t, rooms.Order, 11)
	for i, room := range rooms.Order {
		row, listed := mayImport["internal/shop/"+room]
		require.True(t, listed, room)
		for _, imported := range row {
			below, is := strings.CutPrefix(imported, "internal/shop")
			if !is {
				continue
			}
			k := slices.Index(rooms.Order, strings.TrimPrefix(below, "/"))
			assert.True(t, k >= 0 && k < i, "%s may not import %s", room, imported)
		}
	}
}

// Nothing in the rooms asks for a connection while it holds one: what is given a unit of work opens none of its own.
// On a pool of one connection it would wait for itself.
func TestNobodyOpensASecondConnection(t *testing.T) {
	opens := func(call *ast.CallExpr) bool {
		fun := call.Fun
		if index, is := fun.(*ast.IndexExpr); is {
			fun = index.X
		}
		if id, is := fun.(*ast.Ident); is {
			return strings.HasPrefix(id.Name, "Idempotent")
		}
		sel, is := fun.(*ast.SelectorExpr)
		if !is {
			return false
		}
		switch sel.Sel.Name {
		case "Idempotent", "IdempotentInto":
			return true
		case "Read", "Write":
			on, is := sel.X.(*ast.SelectorExpr)
			return is && (on.Sel.Name == "Store" || on.Sel.Name == "desk")
		}
		return false
	}
	holds := func(f *ast.FuncType) bool {
		return f != nil && slices.ContainsFunc(f.Params.List, func(p *ast.Field) bool {
			sel, is := p.Type.(*ast.SelectorExpr)
			return is && sel.Sel.Name == "Tx"
		})
	}
	calls := 0
	require.NoError(t, filepath.WalkDir("../internal/shop", func(file string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
			return err
		}
		set := token.NewFileSet()
		parsed, err := parser.ParseFile(set, file, nil, 0)
		if err != nil {
			return err
		}
		var walk func(n ast.Node, holding bool)
		walk = func(n ast.Node, holding bool) {
			ast.Inspect(n, func(m ast.Node) bool {
				if m == n {
					return true
				}
				switch m := m.(type) {
				case *ast.FuncLit:
					walk(m.Body, holding || holds(m.Type))
					return false
				case *ast.CallExpr:
					if opens(m) {
						calls++
						assert.False(t, holding, "%s asks for a connection while one is held", set.Position(m.Pos()))
					}
				}
				return true
			})
		}
		for _, d := range parsed.Decls {
			if f, is := d.(*ast.FuncDecl); is && f.Body != nil {
				walk(f.Body, holds(f.Type))
			}
		}
		return nil
	}))
	assert.Greater(t, calls, 100, "the walk finds where connections are asked for")
}
