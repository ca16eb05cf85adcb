; What every Eyelet says to a person.

prompt: .text "\r\neyelet> " ending 0
        .if !defined(area.tongue.first)
help:   .text "\r\n? help, R runs the ROM; upload: bootlace send" ending 0
        .end
