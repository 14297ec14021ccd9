module latelantern

go 1.26.8

require github.com/Eyevinn/mp4ff v0.47.0
