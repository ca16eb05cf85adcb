; Power-up leads to the loader.
        .use "<disk-loader.sym>" as loader
        .vector RESET, loader.start
