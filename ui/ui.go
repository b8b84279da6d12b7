// Package ui holds the built interface.
package ui

import "embed"

// Dist is the built front end; only .keep where it hasn't been built.
//
//go:embed all:dist
var Dist embed.FS
