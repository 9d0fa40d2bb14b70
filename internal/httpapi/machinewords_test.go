package httpapi

import "regexp"

// MachineWords are those of validators, libraries and codes, which are for nobody who stands at a bike.
var MachineWords = regexp.MustCompile(`(?i)\b(json|schema|regexp?|regular expression|unmarshal|strconv|sqlstate|gorm|pgx|nil pointer|null pointer|runtime error|panic|eof|syntax error|unsupported|uuid|rfc ?\d+|additional ?properties|enum)\b|%!|0x[0-9a-f]{4}|\^\[`)
