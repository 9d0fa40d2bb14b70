// House looks at the rooms of the shop with the type checker: how large each is, its longest file and function, who
// imports whom, and what stands where internal/shop/rooms.json does not place it. It fails where an import runs
// against the order, and where a declaration has no room; sizes are guides, and only said.
package main

import (
	"cmp"
	"encoding/json"
	"fmt"
	"go/ast"
	"go/token"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"text/tabwriter"
	"unicode/utf8"

	"golang.org/x/tools/go/packages"
)

const shop = "earnestpony/internal/shop"

// The guides: not laws.
const (
	maxPackage  = 3000 // lines of its own
	maxFile     = 400
	maxFunction = 80
	maxColumns  = 120
)

// plan is rooms.json.
type plan struct {
	Order []string            `json:"order"` // imports run only upward in it
	Files map[string][]string `json:"files"` // of each room; "" is the front door
}

func main() {
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "house:", err)
		os.Exit(1)
	}
}

func run(args []string) error {
	root := ".."
	if len(args) > 0 {
		root = args[0]
	}
	text, err := os.ReadFile(filepath.Join(root, "internal/shop/rooms.json"))
	if err != nil {
		return err
	}
	var p plan
	if err := json.Unmarshal(text, &p); err != nil {
		return fmt.Errorf("rooms.json: %w", err)
	}
	all, err := packages.Load(&packages.Config{Dir: root, Mode: packages.NeedName | packages.NeedImports | packages.NeedSyntax |
		packages.NeedTypes | packages.NeedTypesInfo | packages.NeedFiles | packages.NeedCompiledGoFiles | packages.NeedDeps}, "./internal/shop/...")
	if err != nil {
		return err
	}
	if packages.PrintErrors(all) > 0 {
		return fmt.Errorf("the shop does not compile")
	}
	slices.SortFunc(all, func(a, b *packages.Package) int {
		return cmp.Compare(slices.Index(p.Order, room(a.PkgPath)), slices.Index(p.Order, room(b.PkgPath)))
	})
	out := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', 0)
	fmt.Fprintln(out, "room\tlines\tfiles\tlongest file\tlongest function\tlines over 120\timports")
	var wrong, guides []string
	for _, pkg := range all {
		r := look(pkg, p)
		fmt.Fprintln(out, r.row)
		wrong, guides = append(wrong, r.wrong...), append(guides, r.guides...)
	}
	if err := out.Flush(); err != nil {
		return err
	}
	for _, g := range guides {
		fmt.Println("over a guide:", g)
	}
	for _, w := range wrong {
		fmt.Println("wrong:", w)
	}
	if len(wrong) > 0 {
		return fmt.Errorf("%d wrong", len(wrong))
	}
	return nil
}

func room(path string) string { return strings.TrimPrefix(strings.TrimPrefix(path, shop), "/") }

// seen is what a room looks like.
type seen struct {
	row           string
	wrong, guides []string
}

// stretch is something with a name and a length in lines.
type stretch struct {
	name  string
	lines int
}

func (s stretch) String() string { return fmt.Sprintf("%s %d", s.name, s.lines) }

func look(pkg *packages.Package, p plan) seen {
	var s seen
	name := room(pkg.PkgPath)
	at := slices.Index(p.Order, name)
	if name != "" && at < 0 {
		s.wrong = append(s.wrong, fmt.Sprintf("%s is no room of rooms.json", pkg.PkgPath))
	}
	var imports []string
	for _, path := range slices.Sorted(maps.Keys(pkg.Imports)) {
		if path != shop && !strings.HasPrefix(path, shop+"/") {
			continue
		}
		imports = append(imports, room(path))
		if name != "" && slices.Index(p.Order, room(path)) >= at {
			s.wrong = append(s.wrong, fmt.Sprintf("%s imports %s, which is above it", name, room(path)))
		}
	}
	var file, function stretch
	lines, wide := 0, 0
	for i, path := range pkg.CompiledGoFiles {
		base := filepath.Base(path)
		text, err := os.ReadFile(path)
		if err != nil {
			s.wrong = append(s.wrong, err.Error())
			continue
		}
		split := strings.Split(strings.TrimSuffix(string(text), "\n"), "\n")
		lines += len(split)
		for _, line := range split {
			if utf8.RuneCountInString(strings.ReplaceAll(line, "\t", "    ")) > maxColumns {
				wide++
			}
		}
		if one := (stretch{base, len(split)}); one.lines > file.lines {
			file = one
		}
		if len(split) > maxFile {
			s.guides = append(s.guides, fmt.Sprintf("%s/%s has %d lines", name, base, len(split)))
		}
		placed := slices.Contains(p.Files[name], base)
		for _, d := range pkg.Syntax[i].Decls {
			f, is := d.(*ast.FuncDecl)
			if !placed && !isImport(d) {
				s.wrong = append(s.wrong, fmt.Sprintf("%s: rooms.json places nothing of %s", pkg.Fset.Position(d.Pos()), base))
				break
			}
			if !is {
				continue
			}
			one := stretch{f.Name.Name, pkg.Fset.Position(f.End()).Line - pkg.Fset.Position(f.Pos()).Line + 1}
			if one.lines > function.lines {
				function = one
			}
			if one.lines > maxFunction {
				s.guides = append(s.guides, fmt.Sprintf("%s.%s has %d lines", name, one.name, one.lines))
			}
		}
	}
	if lines > maxPackage {
		s.guides = append(s.guides, fmt.Sprintf("%s has %d lines", name, lines))
	}
	if name == "" {
		name = "(front door)"
	}
	s.row = fmt.Sprintf("%s\t%d\t%d\t%s\t%s\t%d\t%s", name, lines, len(pkg.CompiledGoFiles), file, function, wide, strings.Join(imports, " "))
	return s
}

func isImport(d ast.Decl) bool {
	g, is := d.(*ast.GenDecl)
	return is && g.Tok == token.IMPORT
}
