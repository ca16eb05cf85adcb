; What every Eyelet says to a person.

prompt: .text "\r\neyelet> " ending 0
        .if !defined(area.tongue.first)
help:   .text "\r\nR runs the ROM" ending 0
        .end
