package record

import "fmt"

// Faults collects all that is wrong with an input, so that it is said at once.
type Faults []Field

// Add notes a fault at the path of the value that is wrong, with a stable code and a sentence for a mechanic.
func (f *Faults) Add(path, code, format string, args ...any) {
	*f = append(*f, Field{Path: path, Code: code, Message: fmt.Sprintf(format, args...)})
}

// Err is the problem that refuses the input; nil where nothing is wrong with it.
func (f Faults) Err() error {
	if len(f) == 0 {
		return nil
	}
	return InvalidInput(f...)
}

// Under is [Faults.Add] for what stands within a part of the input.
func (f *Faults) Under(part string) func(path, code, format string, args ...any) {
	return func(path, code, format string, args ...any) { f.Add(part+"."+path, code, format, args...) }
}
