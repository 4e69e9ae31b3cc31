// What is bundled ships without types: whatever is taken from it is any.
declare const three: any;
export = three;
