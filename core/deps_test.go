package core_test

import (
	"encoding/json"
	"go/parser"
	"go/token"
	"io/fs"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"os/exec"
)

const module = "earnestpony/"

// mayImport is policy: which of our packages each package may import. Argue with it in review; do
// not edit it to get a build through. A package that is not listed fails the test.
var mayImport = map[string][]string{
	"core/chain":             {},
	"core/tag":               {},
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

	"internal/calc":    {"core/chain", "core/clean", "core/dayplan", "core/fluids", "core/forecast", "core/interval", "core/lube", "core/sizing", "core/wear"},
	"internal/store":   {},
	"internal/shop":    {"core/chain", "core/clean", "core/dayplan", "core/fault", "core/fitting", "core/fluids", "core/forecast", "core/interval", "core/lube", "core/price", "core/sizing", "core/tag", "core/wear", "internal/calc", "internal/formats", "internal/outside", "internal/store"},
	"internal/formats": {},
	"internal/outside": {"core/chain", "core/wear"},
	"internal/live":    {},
	"internal/localpg": {},
	"internal/demo":    {"core/chain", "core/wear", "internal/outside", "internal/shop", "internal/store"},
	"internal/bigshop": {"core/tag", "internal/shop", "internal/store"},
	"internal/pgtest":  {"internal/localpg", "internal/store"},
	"web":              {},

	"internal/httpapi/apigen": {"internal/calc", "internal/shop"},
	"internal/httpapi":        {"internal/calc", "internal/formats", "internal/httpapi/apigen", "internal/live", "internal/shop"},
	"cmd/pony": {"core/clean", "core/forecast/fairtest", "internal/bigshop", "internal/calc", "internal/demo", "internal/httpapi", "internal/live", "internal/localpg", "internal/outside",
		"internal/shop", "internal/store", "web"},
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
